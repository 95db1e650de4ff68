"""A tempo map that leaves as a MIDI file has its beats where the mix has them, and comes back as it was."""

from __future__ import annotations

import io

import mido
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.errors import RefusedError
from fernbrook.formats.midi_map import TICKS, read_midi_map, write_midi_map

gaps = st.lists(st.floats(0.2, 2.0), min_size=3, max_size=80)


def written(content: bytes) -> tuple[list[float], list[tuple[float, str]]]:
    """Where the quarters and markers of a file fall, as mido's own clock has them."""
    file = mido.MidiFile(file=io.BytesIO(content), charset="utf-8")
    at_s, tick, tempo, quarters, marks = 0.0, 0, 500_000, [0.0], []
    for message in file.tracks[0]:
        end = tick + message.time
        while len(quarters) * TICKS <= end:
            quarters.append(at_s + mido.tick2second(len(quarters) * TICKS - tick, TICKS, tempo))
        at_s += mido.tick2second(message.time, TICKS, tempo)
        tick = end
        if message.type == "set_tempo":
            tempo = message.tempo
        if message.type == "marker":
            marks.append((at_s, message.text))
    return quarters, marks


@given(gaps, st.floats(0.0, 3.0), st.integers(2, 7), st.data())
def test_beats_and_markers_fall_where_they_are(
    lengths: list[float], at_s: float, bar: int, data: st.DataObject
) -> None:
    moments = at_s + np.concatenate(([0.0], np.cumsum(lengths)))
    firsts = np.arange(len(moments)) % bar == 0
    end = float(moments[-1]) + 0.4
    mark = data.draw(st.floats(0.0, end))
    content = write_midi_map(moments, firsts, end, [(mark, "Farne – über")], "Night")
    quarters, marks = written(content)
    ahead = 1 if at_s > 1e-6 else 0
    assert np.abs(np.array(quarters[ahead : ahead + len(moments)]) - moments).max() < 2e-6
    assert quarters[-1] == pytest.approx(end, abs=2e-6)
    ((at, name),) = marks
    assert at == pytest.approx(mark, abs=2.0 / TICKS)
    assert name == "Farne – über"
    back = read_midi_map(content)
    assert np.abs(back.beats_s[ahead : ahead + len(moments)] - moments).max() < 2e-6
    assert back.markers == ((pytest.approx(at, abs=1e-6), name),)
    if len(moments) > 2 * bar:
        assert (ahead, bar) in back.bars or (not ahead and back.bars[0] == (0, bar))


def test_what_is_no_tempo_map_is_refused() -> None:
    for content in (b"", b"MThd", b"ferns", b"MThd\0\0\0\6\0\1\0\1\xe7\x28MTrk\0\0\0\4\0\xff\x2f\0"):
        with pytest.raises(RefusedError, match="MIDI file"):
            read_midi_map(content)
    endless = mido.MidiFile(ticks_per_beat=1)
    endless.tracks.append(mido.MidiTrack([mido.MetaMessage("marker", text="x", time=2_000_000)]))
    out = io.BytesIO()
    endless.save(file=out)
    with pytest.raises(RefusedError, match="beats"):
        read_midi_map(out.getvalue())


@pytest.mark.parametrize("late_s", [16.7, 16.9, 60.0, 300.5])
def test_a_first_beat_may_be_late(late_s: float) -> None:
    moments = late_s + 0.5 * np.arange(17)
    content = write_midi_map(moments, np.arange(17) % 4 == 0, late_s + 60.0, [(late_s, "in")], "Night")
    back = read_midi_map(content)
    first = int(np.argmin(np.abs(back.beats_s - late_s)))
    assert np.abs(back.beats_s[first : first + 17] - moments).max() < 1e-5
    assert back.markers[0][0] == pytest.approx(late_s, abs=1e-4)
    begin, bar = next(b for b in reversed(back.bars) if b[0] <= first)
    assert (bar, (first - begin) % bar) == (4, 0)


def test_older_texts_and_a_key_that_there_is_not_are_read() -> None:
    track = mido.MidiTrack(
        [mido.MetaMessage("marker", text="Glashäuser", time=480), mido.MetaMessage("key_signature", key="C")]
    )
    file = mido.MidiFile(charset="latin-1")
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    content = out.getvalue().replace(b"\xff\x59\x02\x00\x00", b"\xff\x59\x02\x63\x07")
    assert b"\x63\x07" in content
    assert [text for _, text in read_midi_map(content).markers] == ["Glashäuser"]
