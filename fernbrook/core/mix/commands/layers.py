"""Commands on the layers of a mix."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.mix.commands.command import CommandError, Id, MixCommand
from fernbrook.core.mix.layers import MOST_LAYERS, Layer, OfTrack
from fernbrook.core.mix.model import Mix, Naming
from fernbrook.core.track import Tracks


class PutLayers(MixCommand):
    """Lay sounds over the mix, or put them in the place of those that have their ids."""

    kind: Literal["put_layers"] = "put_layers"
    layers: Annotated[tuple[Layer, ...], Field(min_length=1, max_length=MOST_LAYERS)]

    @property
    def track_ids(self) -> tuple[str, ...]:
        """The tracks that they are of."""
        return tuple(x.sound.track_id for x in self.layers if isinstance(x.sound, OfTrack))

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        put = {layer.id: layer for layer in self.layers}
        if len(put) < len(self.layers):
            raise CommandError("Two of those layers have the same id. Give each its own.")
        if any(mix.index_of(i) is not None for i in put):
            raise CommandError("That id is an entry's. Give the layer another.")
        if any(track not in tracks for track in self.track_ids):
            raise CommandError("The track of that layer is not in the library any more.")
        kept = [put.pop(layer.id, layer) for layer in mix.layers]
        layers = (*kept, *put.values())
        if len(layers) > MOST_LAYERS:
            raise CommandError(f"A mix can have {MOST_LAYERS} layers at most. Take some away first.")
        return mix.model_copy(update={"layers": layers})

    @override
    def words(self, naming: Naming) -> str:
        doing = "change" if all(naming.has_layer(x.id) for x in self.layers) else "lay"
        one = len(self.layers) == 1
        return f"{doing} {naming.layer(self.layers[0]) if one else f'{len(self.layers)} layers'}"


class RemoveLayers(MixCommand):
    """Take layers away."""

    kind: Literal["remove_layers"] = "remove_layers"
    ids: Annotated[tuple[Id, ...], Field(min_length=1, max_length=MOST_LAYERS)]

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        gone = set(self.ids)
        return mix.model_copy(update={"layers": tuple(x for x in mix.layers if x.id not in gone)})

    @override
    def words(self, naming: Naming) -> str:
        return f"take {naming.layers(self.ids)} away"
