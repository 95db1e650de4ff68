"""Who goes first when many want to hear something at once."""

from __future__ import annotations

import time
from threading import Event, Thread

import pytest

from fernbrook.service.ground.turns import OvertakenError, Turns


class Crowd:
    """Callers who come one after the other while the only place is taken."""

    def __init__(self, turns: Turns) -> None:
        self.turns = turns
        self.served: list[int] = []
        self.sent_away: list[int] = []
        self._go = Event()
        self._threads: list[Thread] = []

    def comes(self, number: int) -> None:
        thread = Thread(target=self._asks, args=[number], daemon=True)
        self._threads.append(thread)
        thread.start()
        time.sleep(0.05)

    def _asks(self, number: int) -> None:
        try:
            with self.turns.turn():
                self.served.append(number)
                self._go.wait(5.0)
        except OvertakenError:
            self.sent_away.append(number)

    def ends(self) -> None:
        self._go.set()
        for thread in self._threads:
            thread.join(5.0)


def test_the_newest_is_served_first_and_the_oldest_sent_away() -> None:
    crowd = Crowd(Turns(at_once=1, waiting=3))
    for number in range(6):
        crowd.comes(number)
    assert crowd.served == [0]
    assert crowd.sent_away == [1, 2]
    crowd.ends()
    assert crowd.served == [0, 5, 4, 3]
    assert crowd.sent_away == [1, 2]


def test_a_place_is_free_again_whatever_happened_in_it() -> None:
    turns = Turns(at_once=1)
    with pytest.raises(ValueError, match="broken"), turns.turn():
        raise ValueError("broken")
    with turns.turn():
        pass
