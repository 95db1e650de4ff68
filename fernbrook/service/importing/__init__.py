"""Import: bundles, marks of other programs, what a player changed on a stick."""

from fernbrook.service.importing.bundle_opening import Arrival, ArrivedBundle, BundleOpening, OpenedBundle
from fernbrook.service.importing.mark_files import FacetRead, MarkFiles, MarkForm
from fernbrook.service.importing.stick_reading import StickRead, StickReading

__all__ = [
    "Arrival",
    "ArrivedBundle",
    "BundleOpening",
    "FacetRead",
    "MarkFiles",
    "MarkForm",
    "OpenedBundle",
    "StickRead",
    "StickReading",
]
