"""The command line."""

from __future__ import annotations

import json
import webbrowser
from collections.abc import Iterator
from pathlib import Path
from threading import Timer
from typing import Annotated

import numpy as np
import typer
import uvicorn
from numpy.typing import NDArray
from rich.console import Console
from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn, TimeElapsedColumn, TimeRemainingColumn

from fernbrook.analysis.analyse import analyse as analyse_file
from fernbrook.api.app import create_app
from fernbrook.audio.errors import AudioFileError
from fernbrook.audio.file import probe
from fernbrook.audio.writer import OutputFormat, write_audio
from fernbrook.core.plan import RATE
from fernbrook.demo.library import install
from fernbrook.demo.make import make_all
from fernbrook.render.renderer import render as render_blocks
from fernbrook.service.house import House
from fernbrook.service.library import find_audio
from fernbrook.store.folders import Folders

app = typer.Typer(
    help="Prepare and render a continuous mix: cues, transitions, tempo ramps, EQ and volume fades.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)
console = Console()
errors = Console(stderr=True)

DataOption = Annotated[
    Path | None,
    typer.Option("--data", metavar="DIR", help="Where everything is kept; the user's data folder without it."),
]


def _folders(data: Path | None) -> Folders:
    return Folders(data.resolve()) if data else Folders.default()


def _complain(message: str) -> None:
    errors.print(message, style="red", markup=False, highlight=False)


def _bar() -> Progress:
    return Progress(
        TextColumn("{task.description}"),
        BarColumn(),
        TaskProgressColumn(),
        TimeElapsedColumn(),
        TimeRemainingColumn(),
        console=errors,
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
    folders = _folders(data)
    if demo:
        _install_demo(folders)
    address = f"http://127.0.0.1:{port}/"
    console.print(f"Fernbrook is at [bold]{address}[/bold]  (Ctrl+C ends it)")
    if open_page:
        Timer(1.0, webbrowser.open, [address]).start()
    uvicorn.run(
        create_app(House(folders)), host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=3
    )


@app.command()
def demo(data: DataOption = None) -> None:
    """Make the demo material ‘Glasshouse Late’ and put it into the library, if that is empty."""
    _install_demo(_folders(data))


def _install_demo(folders: Folders) -> None:
    with _bar() as bar:
        making = bar.add_task("Making ten tracks", total=10)
        tracks = make_all(folders.root / "demo", lambda done, of: bar.update(making, completed=done, total=of))
        bar.update(making, completed=10)
        analysing = bar.add_task("Analysing them", total=1.0)
        house = House(folders)
        house.start()
        try:
            installed = install(house, tracks, lambda share: bar.update(analysing, completed=share))
            bar.update(analysing, completed=1.0)
        finally:
            house.stop()
    console.print("The demo mix is ready." if installed else "The library has tracks already: the demo was left out.")


@app.command(name="import")
def import_files(
    paths: Annotated[list[Path], typer.Argument(metavar="PATHS...", help="Audio files, or folders to search through.")],
    data: DataOption = None,
    in_place: Annotated[
        bool, typer.Option("--in-place", help="Leave the files where they are; do not copy them.")
    ] = False,
) -> None:
    """Bring audio files into the library and analyse them when the application next runs."""
    house = House(_folders(data))
    failed = 0
    for path in find_audio(paths):
        try:
            imported = house.library.bring_in_path(path, in_place)
        except AudioFileError as error:
            failed += 1
            _complain(str(error))
        else:
            console.print(f"{'had already' if imported.known else 'imported'}  {imported.track.title}")
    house.stop()
    raise typer.Exit(1 if failed else 0)


@app.command()
def analyse(
    files: Annotated[list[Path], typer.Argument(metavar="FILES...", help="Audio files.")],
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON, one object a file.")] = False,
) -> None:
    """Analyse files without a library: tempo, beat times, first downbeat, loudness."""
    failed = 0
    for path in files:
        try:
            probe(path)
            found = analyse_file(path)
        except AudioFileError as error:
            failed += 1
            _complain(str(error))
            continue
        grid = found.grid
        first = float(grid.time_at(0)) if grid else None
        if as_json:
            beats: list[float] = []
            if grid:
                span = grid.beat_at([0.0, found.duration_s])
                numbers = range(int(-(-span[0] // 1)), int(span[1] // 1) + 1)
                beats = [round(float(t), 4) for t in grid.time_at(list(numbers))]
            out = {
                "file": str(path),
                "duration_s": found.duration_s,
                "bpm": round(grid.mean_bpm(found.sound_start_s, found.sound_end_s), 4) if grid else None,
                "first_downbeat_s": first,
                "beats_per_bar": grid.beats_per_bar if grid else None,
                "beats_s": beats,
                "clarity": found.clarity,
                "loudness_lufs": found.loudness.integrated_lufs,
                "true_peak_dbtp": found.loudness.true_peak_dbtp,
            }
            print(json.dumps(out))
        else:
            bpm = grid.mean_bpm(found.sound_start_s, found.sound_end_s) if grid else None
            tempo = f"{bpm:7.2f} BPM, first downbeat at {first:.3f} s" if bpm else "no beat"
            lufs = found.loudness.integrated_lufs
            console.print(f"{path.name}: {tempo}, {f'{lufs:.1f} LUFS' if lufs is not None else 'silent'}")
    raise typer.Exit(1 if failed else 0)


@app.command()
def render(
    mix: Annotated[str, typer.Argument(metavar="MIX", help="The name or id of a mix in the library.")],
    out: Annotated[Path, typer.Option("-o", "--out", metavar="FILE", help="The file to write; .wav or .flac.")],
    data: DataOption = None,
    bits: Annotated[str, typer.Option(help="16, 24 or, for WAV, 32f.")] = "24",
) -> None:
    """Render a mix to one continuous audio file."""
    try:
        output = OutputFormat(f"{out.suffix.lstrip('.').lower()}{bits}")
    except ValueError:
        _complain(f"‘{out.suffix}’ with {bits} bits cannot be written. Choose .wav (16, 24, 32f) or .flac (16, 24).")
        raise typer.Exit(2) from None
    house = House(_folders(data))
    found = [m.row for m in house.mixes.list() if mix in (m.row.id, m.row.name)]
    if not found:
        _complain(f"There is no mix ‘{mix}’. The mixes are: {', '.join(m.row.name for m in house.mixes.list())}")
        raise typer.Exit(2)
    plan = house.mixes.open(found[0].id).plan
    with _bar() as bar:
        task = bar.add_task(f"Rendering ‘{plan.mix.name}’", total=max(plan.frames, 1))

        def watched() -> Iterator[NDArray[np.float32]]:
            for block in render_blocks(plan, house.listening.paths(plan)):
                yield block
                bar.advance(task, len(block))

        try:
            write_audio(out, watched(), plan.frames, RATE, output)
        except (AudioFileError, OSError) as error:
            _complain(str(error))
            raise typer.Exit(1) from None
    house.stop()
    console.print(f"{out}: {plan.duration_s / 60:.1f} minutes")
