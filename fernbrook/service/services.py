"""All services, joined on one data folder, which is theirs alone."""

from __future__ import annotations

import logging
from threading import Event, Thread

from fernbrook.errors import FernbrookError
from fernbrook.render import warm_up as sound
from fernbrook.service.exporting import Backups, Bundles, CueCards, Publishing, Renders, Sticks, TrackLists
from fernbrook.service.files import FileWriting, SoundFiles
from fernbrook.service.ground import Events, Settings
from fernbrook.service.importing import BundleOpening, MarkFiles, StickReading
from fernbrook.service.jobs import Jobs, UnderWay
from fernbrook.service.mixes import Courses, Editing, Listening, Mixes, Orders, Shapes
from fernbrook.service.tracks import ANALYSE, Catalogue, Collection, Library, Marking, Misreading, Stems, Straightening
from fernbrook.service.work.backup import go_on
from fernbrook.solve import warm_up as orders
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.ownership import Ownership

LOOK_FOR_BACKUPS_S = 600.0
log = logging.getLogger(__name__)


class Services:
    """The application without its interface."""

    def __init__(self, folders: Folders, workers: int | None = None, what: str = "a script") -> None:
        """Take a data folder and open all that is kept in it. ``what`` is what others are told who has it.

        Raises
        ------
        FolderInUseError
            When another process has the folder. Nothing in it is touched.
        """
        self.ownership = Ownership(folders.root, what)
        self._stopped = Event()
        try:
            go_on(folders)
            folders.prepare()
            self.folders = folders
            self.events = Events()
            self._database = Database(folders.database)
        except BaseException:
            self.ownership.release()
            raise
        database, events = self._database, self.events
        self.under_way = UnderWay(events)
        self.files = files = SoundFiles(folders, database)
        self.jobs = Jobs(folders, database, events, workers)
        self.library = Library(folders, database, events, self.jobs, files)
        self.catalogue = Catalogue(folders, database, events, self.jobs, ANALYSE)
        self.collection = Collection(database, events)
        self.misreading = Misreading(files, self.collection)
        self.file_writing = FileWriting(folders, database, events, files)
        self.marking = Marking(folders, database, events, self.jobs, files)
        self.mixes = Mixes(database, events)
        self.shapes = Shapes(database, events, self.mixes)
        self.editing = Editing(folders, database, self.mixes)
        self.orders = Orders(database, self.jobs, self.mixes, self.catalogue)
        self.courses = Courses(folders, database, self.mixes)
        self.straightening = Straightening(folders, database, events, self.jobs, files, self.library, self.marking)
        self.settings = Settings(database)
        self.stems = Stems(folders, database, events, self.jobs, files, self.library, self.settings)
        self.listening = Listening(self.mixes, files)
        self.backups = Backups(folders, database, self.jobs, self.settings)
        self.sticks = Sticks(folders, database, self.jobs, files, self.settings, self.mixes, self.collection)
        self.stick_reading = StickReading(database, self.marking, self.collection)
        self.cue_cards = CueCards(self.mixes)
        self.mark_files = MarkFiles(database, events, self.marking, self.mixes)
        self.bundles = Bundles(folders, database, self.jobs, files, self.mixes)
        self.bundle_opening = BundleOpening(folders, database, events, self.jobs)
        self.track_lists = TrackLists(folders, database, self.mixes)
        self.renders = Renders(folders, database, events, self.jobs, self.mixes, files, self.courses, self.track_lists)
        self.publishing = Publishing(folders, database, self.jobs, self.settings, self.renders)

    def start(self) -> None:
        """Clear away what was cut off, and begin to work on what is queued."""
        self.library.clear()
        self.file_writing.clear()
        self.jobs.clear()
        self.bundle_opening.clear()
        self.jobs.start()
        Thread(target=self.catalogue.look_for_files, name="files", daemon=True).start()
        Thread(target=self._keep_safe, name="backups", daemon=True).start()

    def _keep_safe(self) -> None:
        """Have backups made when they are due, until the end."""
        while not self._stopped.wait(LOOK_FOR_BACKUPS_S):
            self.mixes.outcomes.note_some()
            try:
                self.backups.make_if_due()
            except FernbrookError as error:
                log.warning("no backup was made: %s", error)

    @property
    def is_stopped(self) -> bool:
        """Whether all of it has come to its end."""
        return self._stopped.is_set()

    def delete_mix(self, mix_id: str) -> None:
        """Delete a mix, its history, and the files and orders that were made of it.

        Raises
        ------
        NotFoundError
            When there is no such mix.
        """
        self.mixes.delete(mix_id)
        for made in (self.renders, self.bundles, self.orders):
            made.delete_all(mix_id)

    def warm_up(self) -> None:
        """Load what the first preview needs, and after it what the first search does, beside everything else."""

        def both() -> None:
            sound.warm_up()
            orders.warm_up()

        Thread(target=both, name="warm-up", daemon=True).start()

    def stop(self) -> None:
        """Stop all work and let go of everything."""
        self._stopped.set()
        self.events.close()
        self.jobs.stop()
        self.mixes.outcomes.close()
        self._database.close()
        self.ownership.release()
