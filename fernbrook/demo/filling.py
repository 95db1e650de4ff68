"""Filling a library with the demo while it is in use already: tracks arrive as they are made."""

from __future__ import annotations

import logging
from threading import Event, Thread

from fernbrook.demo.library import begin, install
from fernbrook.demo.make import in_order, making
from fernbrook.demo.songs import SONGS
from fernbrook.service.services import Services

WORDS = "Making the demo mix ‘Glasshouse Late’"
MADE_SHARE, ANALYSED_SHARE = 0.4, 0.95
"""Of all the time, up to when the tracks are made and analysed; what is left goes into stems and the mixes."""
log = logging.getLogger(__name__)


class Filling:
    """Makes the demo in a thread of its own; what is cut off goes on at the next start."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._stopped = Event()
        self._thread = Thread(target=self._fill, name="demo", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._services.under_way.tell(WORDS, 0.0)
        self._thread.start()

    def stop(self) -> None:
        """Leave it as it is, and wait until nothing is done any more."""
        self._stopped.set()
        self._thread.join()

    def _fill(self) -> None:
        services = self._services
        try:
            begin(services)
            tracks = []
            for track in making(services.folders.root / "demo", self._stopped.is_set):
                services.library.bring_in_path(track.path)
                tracks.append(track)
                services.under_way.tell(WORDS, MADE_SHARE * len(tracks) / len(SONGS))
            if not self._stopped.is_set():
                install(services, in_order(tracks), self._analysed)
                services.under_way.done()
        except Exception as error:
            if self._stopped.is_set() or services.is_stopped:
                return  # the library was closed under it
            log.exception("the demo was given up")
            services.under_way.give_up(WORDS, f"It could not be made: {error}")

    def _analysed(self, share: float) -> None:
        if self._stopped.is_set():
            raise InterruptedError
        self._services.under_way.tell(WORDS, MADE_SHARE + (ANALYSED_SHARE - MADE_SHARE) * share)
