"""What a part sends to its echo and its reverb, and what comes back."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.effects import Response, Spectrum, repeats, room
from fernbrook.audio.pace import SHORT_WIDTH, interpolate, margin
from fernbrook.core.mix.curves import CONTROLS, Control, Processor
from fernbrook.core.plan import RATE, Automation
from fernbrook.core.tempo_map import TempoMap
from fernbrook.render.beats import beats_at
from fernbrook.render.blocks import BLOCK, Kept
from fernbrook.render.control_rate import straight
from fernbrook.render.processors.insert import Turned

Sound = NDArray[np.float64]
Send = Callable[[int], Sound | None]
"""A block of what is sent, shape (BLOCK, 2); None where nothing is."""


class Ringing(Protocol):
    """An effect whose sound goes on after what was sent to it."""

    def __call__(self, number: int) -> Sound | None:
        """A block of what comes back, shape (BLOCK, 2); None where nothing does."""
        ...


def ringings(automation: Automation, tempo: TempoMap, heard: Send) -> list[Ringing]:
    """The effects of an automation that have something to do.

    ``heard`` are the blocks of what is heard of the part without them.
    """
    return [
        SENDS[CONTROLS[control].processor](automation, tempo, _sent(automation, tempo, control, heard))
        for control in automation.curves.moving
        if CONTROLS[control].processor in SENDS
    ]


def _sent(automation: Automation, tempo: TempoMap, control: Control, heard: Send) -> Send:
    """What is sent to an effect: as much of what is heard as its curve says, within the automation's span."""
    first, last = (int(s * RATE) // BLOCK for s in (automation.start_s, automation.end_s))

    def send(number: int) -> Sound | None:
        if not first <= number <= last:
            return None
        turned = Turned.over(automation, tempo, number * BLOCK, (number + 1) * BLOCK)
        gains = np.where(turned.places < 0.0, 0.0, automation.gains(control, turned.places))
        if not gains.any():
            return None
        sound = heard(number)
        return None if sound is None else sound * straight(gains)[:, None]

    return send


def _reverb(automation: Automation, _: TempoMap, send: Send) -> Ringing:
    """The reverb: a response in seconds."""
    return _Convolved(_room(automation.effects.reverb_s, automation.effects.reverb_colour), send)


class _Convolved:
    """Blocks of sound through a response: each from the blocks before it, whichever is asked for."""

    def __init__(self, response: Response, send: Send) -> None:
        self._response = response
        self._send = Kept(send, 3)
        self._spectrum = Kept(self._spectrum_of, response.blocks + 1)

    def __call__(self, number: int) -> Sound | None:
        """A block of what comes out; None where it is silence."""
        first = number - self._response.blocks + 1
        spectra = [self._spectrum(n) for n in range(max(first, 0), number + 1)]
        if all(s is None for s in spectra):
            return None
        return self._response.convolved(spectra[::-1])

    def _spectrum_of(self, number: int) -> Spectrum | None:
        before, block = (self._send(n) if n >= 0 else None for n in (number - 1, number))
        if before is None and block is None:
            return None
        silence = np.zeros((self._response.block, 2))
        return self._response.spectrum(silence if before is None else before, silence if block is None else block)


class _Echo:
    """The echo: a response in beats. What is sent is read by beats of the mix, and what comes back is read by time."""

    def __init__(self, automation: Automation, tempo: TempoMap, send: Send) -> None:
        effects, slowest = automation.effects, automation.slowest_bpm
        self._tempo = tempo
        self._a_beat = float(np.ceil(RATE * 60.0 / slowest))
        count = effects.echoes(slowest)
        response = _repeats(
            effects.echo_beats * self._a_beat, effects.echo_feedback, effects.echo_damping, count, self._a_beat, slowest
        )
        self._origin = float(np.floor(automation.start_beat)) - 1.0
        self._first = int(automation.start_s * RATE) // BLOCK
        self._silent_after = automation.end_beat + effects.echo_beats * (count + 1)
        self._time_sent = Kept(send, 6)
        self._convolved = Kept(_Convolved(response, self._by_beats), 6)

    def __call__(self, number: int) -> Sound | None:
        beats = beats_at(self._tempo, number * BLOCK, (number + 1) * BLOCK)
        if number < self._first or beats[0] > self._silent_after:
            return None
        positions = (beats - self._origin) * self._a_beat
        cutoff = min(1.0, float(1.0 / np.diff(positions).max()))
        pad = margin(cutoff)
        first, last = int(np.floor(positions[0])) - pad, int(np.ceil(positions[-1])) + pad
        blocks = [self._convolved(n) if n >= 0 else None for n in range(first // BLOCK, last // BLOCK + 1)]
        sound = _joined(blocks)
        if sound is None:
            return None
        return interpolate(sound, positions - first // BLOCK * BLOCK, cutoff, SHORT_WIDTH).astype(np.float64)

    def _by_beats(self, number: int) -> Sound | None:
        """A block of what is sent, as many samples to each beat."""
        beats = self._origin + np.arange(number * BLOCK, (number + 1) * BLOCK) / self._a_beat
        positions = self._tempo.time_at(beats) * RATE
        pad = margin()
        first, last = int(np.floor(positions[0])) - pad, int(np.ceil(positions[-1])) + pad
        sound = _joined([self._time_sent(n) for n in range(first // BLOCK, last // BLOCK + 1)])
        if sound is None:
            return None
        return interpolate(sound, positions - first // BLOCK * BLOCK, 1.0, SHORT_WIDTH).astype(np.float64)


def _joined(blocks: list[Sound | None]) -> NDArray[np.float32] | None:
    """Blocks in a row, single precision; None where all are silence."""
    if all(b is None for b in blocks):
        return None
    out = np.zeros((len(blocks) * BLOCK, 2), dtype=np.float32)
    for n, block in enumerate(blocks):
        if block is not None:
            out[n * BLOCK : (n + 1) * BLOCK] = block
    return out


@lru_cache(maxsize=8)
def _room(length_s: float, colour: float) -> Response:
    return Response(room(length_s, colour, RATE), BLOCK)


@lru_cache(maxsize=8)
def _repeats(apart: float, feedback: float, damping: float, count: int, a_beat: float, slowest_bpm: float) -> Response:
    return Response(repeats(apart, feedback, damping, count, a_beat * slowest_bpm / 60.0), BLOCK)


SENDS: dict[Processor, Callable[[Automation, TempoMap, Send], Ringing]] = {
    Processor.ECHO: _Echo,
    Processor.REVERB: _reverb,
}
"""What each kind of processor makes of what is sent to it. For how long it rings is said by ``Effects.tails``."""
