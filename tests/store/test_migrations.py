"""Data of older versions come through, and the schema that migrations make is the one that the code knows."""

from __future__ import annotations

import json
import zlib
from pathlib import Path

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from sqlalchemy import Engine, create_engine, text

from fernbrook.core.mix.entries import Entry
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import Gap
from fernbrook.core.track import Grid, Markup, tempo_from
from fernbrook.store.database import MIGRATIONS, Database, migrate
from fernbrook.store.markup import head_of as head_of_track
from fernbrook.store.markup import markup_of
from fernbrook.store.mixes import all_mixes, head_of, mix_at
from fernbrook.store.shapes import all_shapes, saved_shape_of
from fernbrook.store.tables import Base, TrackRow

GRID = Grid.constant(123.0, 0.25)
MIX = Mix(name="Night", entries=(Entry(id="e1", track_id="t1"),))


def _to(engine: Engine, revision: str) -> None:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)


def _first_version(path: Path) -> None:
    """A library as the first version kept it: a track with a grid set by hand, in a mix."""
    engine = create_engine(f"sqlite:///{path}")
    _to(engine, "0001")
    with engine.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO tracks (id, content_hash, file_name, path, title, artist, format, coding, rate, channels,"
                " duration_s, bytes, added_at, hidden, grid, bpm, steady, grid_by_hand, sound_start_s)"
                " VALUES ('t1', 'abc', 'x.wav', 'x.wav', 'Moss', '', 'WAV', 'PCM_16', 44100, 2,"
                " 200.0, 1000, '2026-01-01 00:00:00', 0, :grid, 123.0, 1, 1, 0.0)"
            ),
            {"grid": json.dumps(GRID.model_dump())},
        )
        connection.execute(
            text(
                "INSERT INTO mixes (id, name, version, created_at, changed_at)"
                " VALUES ('m1', 'Night', 3, '2026-01-01 00:00:00', '2026-01-01 00:00:00')"
            )
        )
        connection.execute(
            text(
                "INSERT INTO revisions (id, mix_id, label, state, track_ids, created_at)"
                " VALUES (1, 'm1', 'create the mix', :state, 't1', '2026-01-01 00:00:00')"
            ),
            {"state": zlib.compress(MIX.model_dump_json().encode())},
        )
        connection.execute(text("UPDATE mixes SET head = 1"))
    engine.dispose()


def test_a_library_of_the_first_version_is_opened_with_all_that_was_in_it(tmp_path: Path) -> None:
    _first_version(tmp_path / "old.db")
    database = Database(tmp_path / "old.db")
    with database.read() as session:
        track = session.get(TrackRow, "t1")
        assert track is not None
        markup = markup_of(session, track)
        assert (markup.grid, markup.by_hand, markup.checked) == (GRID, True, False)
        (row,) = all_mixes(session)
        assert (row.name, row.version) == ("Night", 3)
        assert mix_at(session, head_of(session, row)) == MIX
    database.close()


def test_the_history_of_tracks_outlasts_every_migration(tmp_path: Path) -> None:
    """A table that is made again must not take along what refers to it."""
    _first_version(tmp_path / "old.db")
    engine = create_engine(f"sqlite:///{tmp_path / 'old.db'}")
    _to(engine, "0003")
    slid = Markup(grid=Grid.constant(123.0, 0.3), by_hand=True)
    with engine.begin() as connection:
        add = "INSERT INTO track_revisions (id, track_id, parent, label, state, created_at) VALUES (:id, 't1', :parent,"
        for number, markup in enumerate((Markup(grid=GRID), slid), 1):
            state = zlib.compress(markup.model_dump_json().encode())
            values = {"id": number, "parent": number - 1 or None, "label": f"step {number}", "state": state}
            connection.execute(text(f"{add} :label, :state, '2026-01-01 00:00:00')"), values)
        connection.execute(text("UPDATE tracks SET head = 2"))
    engine.dispose()
    database = Database(tmp_path / "old.db")
    with database.read() as session:
        track = session.get(TrackRow, "t1")
        assert track is not None
        assert markup_of(session, track) == slid
        head = head_of_track(session, track)
        assert head is not None
        assert (head.label, head.parent) == ("step 2", 1)
        assert session.execute(text("PRAGMA foreign_key_check")).all() == []
        assert session.execute(text("PRAGMA foreign_keys")).scalar() == 1
    database.close()


def test_numbers_that_are_none_are_taken_out_of_an_older_library(tmp_path: Path) -> None:
    """They made the list of tracks unreadable: a file with an infinite sample, and one measured at 733 LUFS."""
    _first_version(tmp_path / "old.db")
    engine = create_engine(f"sqlite:///{tmp_path / 'old.db'}")
    _to(engine, "0003")
    with engine.begin() as connection:
        connection.execute(
            text("UPDATE tracks SET loudness_lufs = 733.0, true_peak_dbtp = 9e999, findings = :findings"),
            {"findings": '{"short_term_max_lufs": Infinity, "energy": [0.5, NaN], "tuning_cents": -3.5}'},
        )
    engine.dispose()
    database = Database(tmp_path / "old.db")
    with database.read() as session:
        track = session.get(TrackRow, "t1")
        assert track is not None
        assert (track.loudness_lufs, track.true_peak_dbtp) == (None, None)
        assert track.findings == {"short_term_max_lufs": None, "energy": [0.5, 0.0], "tuning_cents": -3.5}
    database.close()


def test_migrations_make_what_the_code_knows(tmp_path: Path) -> None:
    engine = create_engine(f"sqlite:///{tmp_path / 'new.db'}")
    migrate(engine)
    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": False})
        assert compare_metadata(context, Base.metadata) == []
    engine.dispose()


@pytest.mark.parametrize(
    ("stored", "found"),
    [
        (tempo_from(Grid.constant(136.0, 0.5), 64.0, 174.0).model_dump_json(), (136.0, 174.0)),
        ('{"anchors": []}', (None, None)),
    ],
    ids=["a step", "no grid at all"],
)
def test_a_track_of_before_that_means_its_change_has_the_tempi_of_its_ends(
    stored: str, found: tuple[float | None, float | None], tmp_path: Path
) -> None:
    _first_version(tmp_path / "old.db")
    engine = create_engine(f"sqlite:///{tmp_path / 'old.db'}")
    _to(engine, "0012")
    with engine.begin() as connection:
        connection.execute(text("UPDATE tracks SET grid = :grid, steady = 0, duration_s = 180.0"), {"grid": stored})
    _to(engine, "0013")
    with engine.connect() as connection:
        assert tuple(connection.execute(text("SELECT comes_bpm, leaves_bpm FROM tracks")).one()) == found
    engine.dispose()


def test_opening_twice_changes_nothing(tmp_path: Path) -> None:
    _first_version(tmp_path / "old.db")
    for _ in range(2):
        Database(tmp_path / "old.db").close()
    database = Database(tmp_path / "old.db")
    with database.read() as session:
        assert len(all_mixes(session)) == 1
    database.close()


def test_saved_hand_overs_are_shapes_and_a_clear_by_cue_s_plate_says_alone(tmp_path: Path) -> None:
    _first_version(tmp_path / "old.db")
    engine = create_engine(f"sqlite:///{tmp_path / 'old.db'}")
    _to(engine, "0011")
    marks = [[1.0, "in"], [9.5, "clear · verse"], [12.0, "clear"], [20.0, "clearing"]]
    manner = {"kind": "cut", "tempo": "switch_at_start", "breath": {"beats": 2.0}}
    shape = {"name": "Mine", "length": 8.0, "manner": manner}
    with engine.begin() as connection:
        connection.execute(text("UPDATE tracks SET cue_marks = :marks"), {"marks": json.dumps(marks)})
        connection.execute(
            text("INSERT INTO hand_overs (id, name, state, created_at) VALUES ('s1', 'Ours', :state, '2026-01-01')"),
            {"state": zlib.compress(json.dumps({"version": 1, "state": shape}).encode())},
        )
    engine.dispose()
    database = Database(tmp_path / "old.db")
    with database.read() as session:
        track = session.get(TrackRow, "t1")
        assert track is not None
        assert track.cue_marks == [[1.0, "in"], [9.5, "alone · verse"], [12.0, "alone"], [20.0, "clearing"]]
        (saved,) = map(saved_shape_of, all_shapes(session))
        assert saved.name == "Ours"
        assert saved.manner.gap == Gap(beats=2.0)
    database.close()
