"""The commands."""

from __future__ import annotations

import logging
import time
from pathlib import Path
from typing import Annotated

import typer

from fernbrook.cli.data_option import DataOption
from fernbrook.cli.keeping import backup, bundle, open_bundle, restore
from fernbrook.cli.plainly import Plainly

log = logging.getLogger(__name__)

app = typer.Typer(
    cls=Plainly,
    help="Prepare and render a continuous mix: cues, transitions, tempo ramps, EQ and volume fades.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)


@app.command()
def serve(
    data: DataOption = None,
    port: Annotated[int, typer.Option(help="The port to listen on, on this machine only.", min=1, max=65_535)] = 8420,
    demo: Annotated[
        bool, typer.Option("--demo", help="Fill the library with the demo mix first, if it is empty.")
    ] = False,
    open_page: Annotated[bool, typer.Option("--open", help="Open the page in the browser.")] = False,
) -> None:
    """Start the application; then open the page in a browser."""
    from fernbrook.cli.at_desk import folders_of
    from fernbrook.cli.serving import serve_folder

    raise typer.Exit(0 if serve_folder(folders_of(data), port, demo, open_page) else 1)


@app.command()
def demo(data: DataOption = None) -> None:
    """Make the demo material ‘Glasshouse Late’ and put it into the library, if that is empty."""
    from fernbrook.cli.at_desk import folders_of
    from fernbrook.cli.serving import install_demo

    install_demo(folders_of(data))


@app.command(name="import")
def import_files(
    paths: Annotated[list[Path], typer.Argument(metavar="PATHS...", help="Audio files, or folders to search through.")],
    data: DataOption = None,
    in_place: Annotated[
        bool, typer.Option("--in-place", help="Leave the files where they are; do not copy them.")
    ] = False,
    analyse_later: Annotated[
        bool, typer.Option("--analyse-later", help="Do not wait for the analyses; they are done when it next runs.")
    ] = False,
) -> None:
    """Bring audio files into the library and analyse them; beside a running application, through it."""
    from fernbrook.cli.at_desk import desk
    from fernbrook.cli.desk import LOOK_EVERY_S
    from fernbrook.cli.screen import complain, progress, say
    from fernbrook.errors import FernbrookError
    from fernbrook.service.files import find_audio

    failed = 0
    brought: list[str] = []
    with desk(data, "fernbrook import") as here:
        for path in find_audio(paths):
            try:
                taken = here.bring_in(path, in_place)
            except FernbrookError as error:
                failed += 1
                complain(str(error))
            except Exception:  # one file never stops the rest
                failed += 1
                log.exception("%s", path)
                complain(f"‘{path.name}’ could not be imported: a fault in Fernbrook, told above.")
            else:
                brought.append(taken.track_id)
                say(f"{'put back' if taken.restored else 'had already' if taken.known else 'imported'}  {taken.title}")
        if brought and analyse_later:
            say("The analyses are done when the application next runs.")
        elif brought and here.waiting(brought) is not None:
            with progress("Analysing") as report:
                while (share := here.waiting(brought)) is not None:
                    report(share)
                    time.sleep(LOOK_EVERY_S)
                report(1.0)
    raise typer.Exit(1 if failed else 0)


@app.command()
def analyse(
    files: Annotated[list[Path], typer.Argument(metavar="FILES...", help="Audio files.")],
    as_json: Annotated[
        bool, typer.Option("--json", help="Print JSON, one object a file, with all that was found.")
    ] = False,
) -> None:
    """Analyse files without a library: beats, key, sections, voices, loudness, and what is doubtful."""
    from fernbrook.analysis.analyse import analyse as analyse_file
    from fernbrook.audio.files import probe
    from fernbrook.cli.findings import findings_json, findings_line
    from fernbrook.cli.screen import complain, say
    from fernbrook.errors import AudioFileError

    failed = 0
    for path in files:
        try:
            probe(path)
            found = analyse_file(path)
        except AudioFileError as error:
            failed += 1
            complain(str(error))
            continue
        if as_json:
            print(findings_json(str(path), found))
        else:
            say(findings_line(path.name, found))
    raise typer.Exit(1 if failed else 0)


@app.command()
def render(
    mix: Annotated[str, typer.Argument(metavar="MIX", help="The name or id of a mix in the library.")],
    out: Annotated[
        Path,
        typer.Option(
            "-o", "--out", metavar="FILE", help="The file: .wav, .flac, .mp3, .m4a, .opus, .ogg, .mp4, .webm or .zip."
        ),
    ],
    data: DataOption = None,
    bits: Annotated[str, typer.Option(help="16, 24 or, for WAV, 32f; for MP3, 320 or V0.")] = "24",
    what: Annotated[
        str, typer.Option(help="mix, teaser; and, as a .zip, tracks (a file a track) or lanes (for an editor).")
    ] = "mix",
    within: Annotated[str, typer.Option(help="The kind of the files within a .zip, such as .flac.")] = ".wav",
    stems: Annotated[bool, typer.Option("--stems", help="Lanes: one for each stem of a track that has any.")] = False,
    curves: Annotated[bool, typer.Option("--curves/--no-curves", help="Lanes: faded as in the mix, or not.")] = True,
) -> None:
    """Render a mix to one continuous audio file, or to what else it can leave as; beside a running application, through
    it."""
    from fernbrook.audio.files import output_named
    from fernbrook.cli.at_desk import desk
    from fernbrook.cli.desk import one_named
    from fernbrook.cli.screen import complain, progress, say
    from fernbrook.service.work.wish import RenderWish, What

    if what not in list(What):
        complain(f"‘{what}’ cannot be rendered. Choose one of {', '.join(What)}.")
        raise typer.Exit(2)
    made = What(what)
    suffix = within if made.is_archive else out.suffix
    output = output_named(suffix, bits)
    if output is None or (made.is_archive and out.suffix.lower() != ".zip"):
        complain(
            f"‘{out.suffix}’ with {bits} bits cannot be written. Choose .wav (16, 24, 32f), .flac (16, 24), "
            ".mp3 (320, V0), .m4a, .opus, .ogg, .mp4 or .webm; for tracks and lanes a .zip."
        )
        raise typer.Exit(2)
    wish = RenderWish(output=output, what=made, by_stem=stems, curves=curves)
    with desk(data, "fernbrook render") as here:
        found = one_named(here.mixes(), mix)
        with progress(f"Rendering ‘{found.name}’") as report:
            seconds = here.render(found, out, wish, report)
    say(f"{out}: {seconds / 60:.1f} minutes")


for _command in (backup, restore, bundle, open_bundle):
    app.command(name=_command.__name__.split("_")[0])(_command)
