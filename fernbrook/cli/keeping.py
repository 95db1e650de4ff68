"""The commands that keep things safe and take them elsewhere: backups and bundles."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from fernbrook.cli.data_option import DataOption


def backup(
    out: Annotated[Path, typer.Option("-o", "--out", metavar="FILE", help="The ZIP to write.")],
    data: DataOption = None,
    audio: Annotated[bool, typer.Option("--audio/--no-audio", help="With the audio files, or without.")] = True,
) -> None:
    """Back up the whole library to one file, also while an application runs on it."""
    from fernbrook.cli.at_desk import folders_of
    from fernbrook.cli.screen import complain, progress, say
    from fernbrook.service.work.backup import write_backup

    folders = folders_of(data)
    if not folders.database.is_file():
        complain(f"There is no library in {folders.root}.")
        raise typer.Exit(2)
    with progress("Backing up") as report:
        made = write_backup(folders, out.resolve(), with_audio=audio, report=report)
    say(f"{out}: {len(made.files)} files, {made.bytes / 1e6:.1f} MB")


def restore(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="A backup.")],
    data: DataOption = None,
) -> None:
    """Bring a backup back. All of it is checked first; what was there before is put aside in the data folder."""
    from fernbrook.cli.at_desk import folders_of
    from fernbrook.cli.screen import progress, say
    from fernbrook.service.work.backup import restore as bring_back
    from fernbrook.store.ownership import Ownership

    folders = folders_of(data)
    ownership = Ownership(folders.root, "fernbrook restore")
    try:
        with progress("Restoring") as report:
            back = bring_back(file, folders, report)
    finally:
        ownership.release()
    say(
        f"{folders.root} is as it was on {back.archive.said['made_at']}. "
        f"What was there before lies in {back.before}: delete that when you need it no more."
    )


def bundle(
    mix: Annotated[str, typer.Argument(metavar="MIX", help="The name or id of a mix in the library.")],
    out: Annotated[Path, typer.Option("-o", "--out", metavar="FILE", help="The ZIP to write.")],
    data: DataOption = None,
    audio: Annotated[str, typer.Option(help="The music: original, flac, or none.")] = "original",
    history: Annotated[bool, typer.Option("--history/--no-history", help="With all that led to it, or not.")] = True,
) -> None:
    """Pack a mix into one file that opens on another machine, with its markup and its music."""
    from fernbrook.cli.at_desk import desk
    from fernbrook.cli.desk import one_named
    from fernbrook.cli.screen import complain, progress, say
    from fernbrook.formats.bundle import BundleAudio

    if audio not in list(BundleAudio):
        complain(f"The music cannot go along as ‘{audio}’. Choose one of {', '.join(BundleAudio)}.")
        raise typer.Exit(2)
    with desk(data, "fernbrook bundle") as here:
        found = one_named(here.mixes(), mix)
        with progress(f"Packing ‘{found.name}’") as report:
            here.bundle(found, out, BundleAudio(audio), history, report)
    say(f"{out}: {out.stat().st_size / 1e6:.1f} MB")


def open_bundle(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="A bundle.")],
    data: DataOption = None,
    theirs: Annotated[
        bool, typer.Option("--theirs", help="Where a track is here with other markup, take that of the bundle.")
    ] = False,
) -> None:
    """Open a bundle: its mix, its tracks, its markup. What is here already is recognised, nothing is overwritten."""
    from fernbrook.cli.at_desk import desk
    from fernbrook.cli.screen import progress, say

    with desk(data, "fernbrook open") as here, progress(f"Opening ‘{file.name}’") as report:
        lines = here.open_bundle(file, theirs, report)
    for line in lines:
        say(line)
