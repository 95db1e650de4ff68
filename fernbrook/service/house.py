"""All services, joined on one data folder."""

from __future__ import annotations

from fernbrook.service.events import Events
from fernbrook.service.jobs import Jobs
from fernbrook.service.library import Library
from fernbrook.service.listening import Listening
from fernbrook.service.marking import Marking
from fernbrook.service.mixes import Mixes
from fernbrook.service.renders import Renders
from fernbrook.service.straightening import Straightening
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders


class House:
    """The application without its interface."""

    def __init__(self, folders: Folders, workers: int | None = None) -> None:
        folders.prepare()
        self.folders = folders
        self.events = Events()
        self._database = Database(folders.database)
        self.jobs = Jobs(self._database, self.events, workers)
        self.library = Library(folders, self._database, self.events, self.jobs)
        self.marking = Marking(folders, self._database, self.events)
        self.mixes = Mixes(self._database, self.events)
        self.straightening = Straightening(folders, self._database, self.jobs, self.library, self.marking)
        self.listening = Listening(folders, self._database, self.mixes)
        self.renders = Renders(folders, self._database, self.events, self.jobs, self.mixes, self.listening)

    def start(self) -> None:
        """Begin to work on what is queued."""
        self.jobs.start()

    def stop(self) -> None:
        """Stop all work and let go of everything."""
        self.events.close()
        self.jobs.stop()
        self._database.close()
