"""A file arrives at a host whole, however often the connection breaks, and each refusal is told in its own words."""

from __future__ import annotations

import base64
import hashlib
import json
import random
import stat
from collections.abc import Iterator
from pathlib import Path

import httpx
import keyring
import numpy as np
import pytest
from fastapi import FastAPI, Request, Response
from keyring.backends.fail import Keyring as NoKeyring
from tusclient.client import TusClient

from fernbrook.core.mix.commands import AddTracks
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.exporting.publishing import PublishWish
from fernbrook.service.ground.tokens import Tokens
from fernbrook.service.services import Services
from fernbrook.service.work import publish as sending
from fernbrook.service.work.publish import HostError, PublishedTrack, PublishOrder, publish
from fernbrook.service.work.wish import RenderWish
from fernbrook.store.folders import Folders
from standins.host.app import create_host
from standins.host.shelf import Behaviour, Shelf
from tests.conftest import Made
from tests.service.conftest import killed, until, without_analyses
from tests.standins.serving import served

SIZE = 24_000_000


@pytest.fixture(autouse=True)
def _no_keyring(monkeypatch: pytest.MonkeyPatch) -> None:
    """No test writes into the keyring of whoever runs it, and none waits long."""
    monkeypatch.setattr(keyring, "get_keyring", NoKeyring)
    monkeypatch.setattr(keyring.core, "_keyring_backend", NoKeyring())
    monkeypatch.setattr(sending, "WAIT_S", 0.01)


@pytest.fixture
def shelf(tmp_path: Path) -> Shelf:
    return Shelf(tmp_path / "host")


@pytest.fixture
def address(shelf: Shelf, tmp_path: Path) -> Iterator[str]:
    with served(create_host(tmp_path / "host")) as at:
        assert shelf.token()
        yield at


@pytest.fixture
def order(address: str, shelf: Shelf, tmp_path: Path) -> PublishOrder:
    """A file in a data folder that has the host's token."""
    content = np.random.default_rng(3).integers(0, 256, SIZE, dtype=np.uint8).tobytes()
    (tmp_path / "renders").mkdir(exist_ok=True)
    (tmp_path / "renders/mix.mp3").write_bytes(content)
    (tmp_path / "renders/cover.png").write_bytes(b"\x89PNG picture")
    Tokens(tmp_path).put(address, shelf.token())
    return PublishOrder(
        file="renders/mix.mp3",
        name="Glasshouse Late.mp3",
        host=address,
        title="Glasshouse Late",
        tags=("downtempo",),
        tracks=(PublishedTrack(start_s=0.0, title="Moss"), PublishedTrack(start_s=212.4, title="Fern", artist="Ines")),
        picture="renders/cover.png",
        private=True,
        state="renders/upload.json",
    )


def arrived(shelf: Shelf, tmp_path: Path) -> dict:
    """What the host says of its only mix, whose sound is what was sent."""
    ((mix, said),) = shelf.all_mixes()
    _, sound = shelf.mix(mix)
    digests = [hashlib.sha256(p.read_bytes()).hexdigest() for p in (sound, tmp_path / "renders/mix.mp3")]
    assert digests[0] == digests[1]
    return said


def test_it_arrives_with_all_that_is_said_of_it(order: PublishOrder, shelf: Shelf, tmp_path: Path) -> None:
    shares: list[float] = []
    result = publish(order, tmp_path, shares.append)
    said = arrived(shelf, tmp_path)
    assert (said["title"], said["tags"], said["private"]) == ("Glasshouse Late", ["downtempo"], True)
    assert [(t["start_s"], t["title"], t["artist"]) for t in said["tracks"]] == [
        (0.0, "Moss", ""),
        (212.4, "Fern", "Ines"),
    ]
    assert base64.b64decode(said["picture"]) == b"\x89PNG picture"
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    assert "Glasshouse Late" in httpx.get(result["url"]).text
    assert not (tmp_path / "renders/upload.json").exists()


def test_ten_broken_connections_cost_nothing(order: PublishOrder, shelf: Shelf, tmp_path: Path) -> None:
    shelf.behave(Behaviour(break_after=SIZE // 10))
    begun = []
    real = Shelf.begin
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(Shelf, "begin", lambda *a: (begun.append(1), real(*a))[1])
        publish(order, tmp_path, lambda _: None)
    arrived(shelf, tmp_path)
    assert len(begun) == 1


def test_what_was_cut_off_goes_on_where_it_was(order: PublishOrder, shelf: Shelf, tmp_path: Path) -> None:
    class StoppedError(Exception):
        """As if the application had been closed."""

    def stop(share: float) -> None:
        if share > 0.5:
            raise StoppedError

    with pytest.raises(StoppedError):
        publish(order, tmp_path, stop)
    upload = json.loads((tmp_path / "renders/upload.json").read_text())["upload"]
    here, _ = shelf.said(upload.rsplit("/", 1)[-1])
    assert here >= 8 << 20
    shares: list[float] = []
    publish(order, tmp_path, shares.append)
    assert shares[0] == pytest.approx(0.99 * here / SIZE, abs=0.02) or shares[0] > 0.3
    arrived(shelf, tmp_path)


def test_another_file_is_not_sent_on_from_where_the_one_before_it_was_cut_off(
    order: PublishOrder, shelf: Shelf, tmp_path: Path
) -> None:
    class StoppedError(Exception):
        """As if the application had been closed."""

    def stop(share: float) -> None:
        if share > 0.4:
            raise StoppedError

    with pytest.raises(StoppedError):
        publish(order, tmp_path, stop)
    (tmp_path / "renders/mix.mp3").write_bytes(b"rendered anew, and shorter" * 1000)
    publish(order, tmp_path, lambda _: None)
    arrived(shelf, tmp_path)


@pytest.mark.parametrize(
    ("how", "words"),
    [
        (Behaviour(refuse="quota"), "no room left"),
        (Behaviour(refuse="token"), "withdrawn"),
        (Behaviour(refuse="kind"), "Only MP3"),
        (Behaviour(refuse="title"), "there already"),
        (Behaviour(refuse="busy"), "looked after"),
        (Behaviour(largest=1_000_000), "up to 1 MB"),
    ],
)
def test_each_refusal_is_told(order: PublishOrder, shelf: Shelf, tmp_path: Path, how: Behaviour, words: str) -> None:
    shelf.behave(how)
    with pytest.raises(HostError, match=words):
        publish(order, tmp_path, lambda _: None)
    assert shelf.all_mixes() == []
    shelf.behave(Behaviour())
    publish(order, tmp_path, lambda _: None)
    arrived(shelf, tmp_path)


def test_a_wrong_token_and_a_host_that_is_not_there_are_told(order: PublishOrder, tmp_path: Path) -> None:
    Tokens(tmp_path).put(order.host, "wrong")
    with pytest.raises(HostError, match="not known here"):
        publish(order, tmp_path, lambda _: None)
    nowhere = order.model_copy(update={"host": "http://127.0.0.1:9"})
    Tokens(tmp_path).put(nowhere.host, "x")
    with pytest.raises(HostError, match="does not answer"):
        publish(nowhere, tmp_path, lambda _: None)
    Tokens(tmp_path).forget(nowhere.host)
    with pytest.raises(HostError, match="No token"):
        publish(nowhere, tmp_path, lambda _: None)


@pytest.mark.parametrize("location", ["https://elsewhere.example/uploads/1", "//elsewhere.example/1", ""])
def test_a_host_that_leads_elsewhere_is_not_followed(order: PublishOrder, tmp_path: Path, location: str) -> None:
    app, asked = FastAPI(), []

    @app.post("/uploads", status_code=201)
    def begin(request: Request) -> Response:
        asked.append(request.headers["authorization"])
        return Response(status_code=201, headers={"location": location})

    with served(app) as host:
        Tokens(tmp_path).put(host, "secret")
        with pytest.raises(HostError, match="not its own"):
            publish(order.model_copy(update={"host": host}), tmp_path, lambda _: None)
    assert asked == ["Bearer secret"]
    assert not (tmp_path / "renders/upload.json").exists()


def test_the_host_speaks_the_protocol_with_a_client_that_is_not_ours(
    address: str, shelf: Shelf, tmp_path: Path
) -> None:
    path = tmp_path / "a.bin"
    path.write_bytes(bytes(range(256)) * 4000)
    shelf.behave(Behaviour(slow_ms=5))
    headers = {"Authorization": f"Bearer {shelf.token()}"}
    uploader = TusClient(f"{address}/uploads", headers=headers).uploader(
        str(path), chunk_size=300_000, metadata={"filename": "a.bin"}
    )
    uploader.upload()
    here, length = shelf.said(uploader.url.rsplit("/", 1)[-1])
    assert here == length == path.stat().st_size
    with httpx.Client(base_url=address, headers=headers) as client:
        assert client.options("/uploads").headers["tus-version"] == "1.0.0"
        at = uploader.url
        sent = {"upload-offset": "5", "content-type": "application/offset+octet-stream"}
        assert client.patch(at, content=b"x", headers=sent).status_code == 409
        assert client.patch(at, content=b"x", headers={**sent, "content-type": "text/plain"}).status_code == 415
        assert client.delete(at).status_code == 204
        assert client.head(at).status_code == 404
        assert client.post("/mixes", json={"upload": "gone", "title": "x"}).status_code == 404


def test_tokens_are_in_the_keyring_or_in_a_file_that_only_the_user_reads(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    tokens = Tokens(tmp_path)
    assert tokens.put("https://a.example", "secret") is False
    assert stat.S_IMODE((tmp_path / "tokens.json").stat().st_mode) == 0o600
    assert tokens.get("https://a.example") == "secret"
    kept: dict[tuple[str, str], str] = {}
    monkeypatch.setattr(keyring, "get_password", lambda s, h: kept.get((s, h)))
    monkeypatch.setattr(keyring, "set_password", lambda s, h, t: kept.__setitem__((s, h), t))
    monkeypatch.setattr(keyring, "delete_password", lambda s, h: kept.pop((s, h)))
    assert tokens.put("https://a.example", "better") is True
    assert not (tmp_path / "tokens.json").exists()
    assert tokens.get("https://a.example") == "better"
    tokens.forget("https://a.example")
    assert tokens.get("https://a.example") is None


SEND = """
import sys, time
from pathlib import Path
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
if __name__ == "__main__":
    services = Services(Folders(Path(sys.argv[1])), workers=1)
    services.start()
    print("begun", flush=True)
    time.sleep(60)
"""


@pytest.mark.slow
def test_killed_while_it_is_sent_it_arrives_whole_and_once(
    address: str, shelf: Shelf, tmp_path: Path, first: Made
) -> None:
    data, script = tmp_path / "data", tmp_path / "send.py"
    script.write_text(SEND)
    services = Services(Folders(data), workers=1)
    track = services.library.bring_in_path(first.path).track
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track.id,)))
    without_analyses(services)
    made = services.renders.start(mix.id, RenderWish(output="wav24", end_s=60.0)).job
    services.start()
    until(lambda: services.renders.list(mix.id)[0].job.state == "done")
    services.jobs.stop()
    services.publishing.start(made.id, PublishWish(host=address, title="Night", token=shelf.token()))
    services.stop()
    shelf.behave(Behaviour(break_after=1_000_000))
    dice = random.Random(23)
    for _ in range(4):
        killed(script, str(data), after_s=dice.uniform(0.1, 1.0))
    again = Services(Folders(data), workers=1)
    try:
        again.start()
        until(lambda: not again.publishing.of_mix(mix.id)[0].job.is_open)
        assert again.publishing.of_mix(mix.id)[0].job.error is None
        ((sent, _),) = shelf.all_mixes()
        assert shelf.mix(sent)[1].read_bytes() == next(again.folders.renders.glob("*.wav")).read_bytes()
        assert not list(again.folders.renders.glob("*.json"))
    finally:
        again.stop()


@pytest.mark.slow
def test_a_rendered_mix_is_published_with_its_chapters_and_cover(
    address: str, shelf: Shelf, tmp_path: Path, first: Made
) -> None:
    services = Services(Folders(tmp_path / "data"), workers=1)
    try:
        track = services.library.bring_in_path(first.path).track
        mix = services.mixes.create("Night")
        services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track.id,)))
        made = services.renders.start(mix.id, RenderWish(output="mp3_320", end_s=20.0)).job
        services.start()
        until(lambda: services.renders.list(mix.id)[0].job.state == "done")
        wish = PublishWish(host=address, title="Night")
        with pytest.raises(RefusedError, match="No token"):
            services.publishing.start(made.id, wish)
        with pytest.raises(NotFoundError):
            services.publishing.start("gone", wish)
        for bad in ("ftp://x", "http://far.example", "http://"):
            with pytest.raises(RefusedError):
                services.publishing.start(made.id, wish.model_copy(update={"host": bad, "token": "x"}))
        sent = services.publishing.start(made.id, wish.model_copy(update={"token": shelf.token()}))
        until(lambda: not services.publishing.of_mix(mix.id)[0].job.is_open)
        (done,) = services.publishing.of_mix(mix.id)
        assert (done.job.error, done.render_id) == (None, made.id)
        assert done.url is not None
        assert done.url.startswith(address)
        assert services.publishing.host().has_token
        ((_, said),) = shelf.all_mixes()
        assert [(t["title"], t["artist"]) for t in said["tracks"]] == [(track.title, track.artist)]
        assert base64.b64decode(said["picture"]).startswith(b"\x89PNG")
        services.publishing.delete(sent.job.id)
        assert services.publishing.of_mix(mix.id) == []
    finally:
        services.stop()
