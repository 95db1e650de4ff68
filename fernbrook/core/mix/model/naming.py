"""What the parts of a mix are called in words: 'undo: move the mix-in of ‘Heliconia’'."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fernbrook.core.mix.layers import MADE_SOUNDS, Layer, Made
from fernbrook.core.mix.model.mix import Mix
from fernbrook.core.track import Tracks


@dataclass(frozen=True)
class Naming:
    """The names of the entries and layers of a mix."""

    mix: Mix
    tracks: Tracks

    def track(self, track_id: str) -> str | None:
        """The title of a track in quotes, or None where the library has no such track."""
        track = self.tracks.get(track_id)
        return f"‘{track.title}’" if track else None

    def entry(self, entry_id: str) -> str:
        """The title of an entry's track in quotes."""
        index = self.mix.index_of(entry_id)
        return (index is not None and self.track(self.mix.entries[index].track_id)) or "an entry"

    def entries(self, entry_ids: Sequence[str]) -> str:
        """One entry by its title, several by their number."""
        return self.entry(entry_ids[0]) if len(entry_ids) == 1 else f"{len(entry_ids)} entries"

    def has_layer(self, layer_id: str) -> bool:
        """Whether the mix has a layer."""
        return any(x.id == layer_id for x in self.mix.layers)

    def layers(self, layer_ids: Sequence[str]) -> str:
        """One layer of the mix by its name, several by their number."""
        there = [self.layer(x) for x in self.mix.layers if x.id in layer_ids]
        return there[0] if len(there) == 1 else f"{len(layer_ids)} layers"

    def layer(self, layer: Layer) -> str:
        """What a layer is called: by the name that it was given, otherwise by what it is."""
        if layer.name:
            return f"‘{layer.name}’"
        if isinstance(layer.sound, Made):
            return f"a {MADE_SOUNDS[layer.sound.sound].label.lower()}"
        what = layer.sound.stem.value if layer.sound.stem else "a part"
        return f"{what} of {self.track(layer.sound.track_id) or 'a track'}"
