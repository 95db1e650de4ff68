"""Export: renders, lists, cards, bundles, backups, sticks, publishing."""

from fernbrook.service.exporting.backups import Backups, MadeBackup, Schedule
from fernbrook.service.exporting.bundles import Bundles, MadeBundle
from fernbrook.service.exporting.cue_cards import CardKind, CueCards
from fernbrook.service.exporting.publishing import Published, Publishing, PublishWish
from fernbrook.service.exporting.renders import Renders
from fernbrook.service.exporting.sticks import MARKED, Action, OnTheStick, StickPlan, Sticks, stick_at
from fernbrook.service.exporting.track_lists import TrackLists

__all__ = [
    "MARKED",
    "Action",
    "Backups",
    "Bundles",
    "CardKind",
    "CueCards",
    "MadeBackup",
    "MadeBundle",
    "OnTheStick",
    "PublishWish",
    "Published",
    "Publishing",
    "Renders",
    "Schedule",
    "StickPlan",
    "Sticks",
    "TrackLists",
    "stick_at",
]
