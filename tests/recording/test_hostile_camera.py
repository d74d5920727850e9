"""Cameras that drip, lie without end, or say what no camera means: each ends in words, none holds a thread or fills a disk."""

import json
import socket
import threading
import time

import pytest
from msgspec.structs import replace

from glintor.errors import Cancelled
from glintor.exposure.modes import MODES
from glintor.project.kit import Camera
from glintor.recording import held_link
from glintor.recording.held_link import HeldLink, Seen
from glintor.recording.link import NotPossible, Options
from glintor.recording.rolling import light_of
from glintor.recording.settings import in_words
from glintor.recording.web_camera import WebCamera
from glintor.recording.web_words import moment
from glintor.recording.wire import Address, Lost, Wire, Wrong
from tests.recording.test_web_camera import done, odd, raw, served  # noqa: F401


@pytest.fixture
def dripping():
    """A server that sends what it is given a byte at a time."""
    stop = threading.Event()
    with socket.create_server(("127.0.0.1", 0)) as server:

        def drip(line, content):
            with line:
                line.recv(65536)
                for piece in content:
                    if stop.wait(0.05):
                        return
                    try:
                        line.sendall(piece if isinstance(piece, bytes) else bytes([piece]))
                    except OSError:
                        return

        def serve():
            while not stop.is_set():
                try:
                    line, _ = server.accept()
                except OSError:
                    return
                threading.Thread(target=drip, args=(line, server_content[0]), daemon=True).start()

        server_content = [b""]
        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        yield server.getsockname()[1], server_content
        stop.set()
        server.shutdown(socket.SHUT_RDWR)
    thread.join(2.0)


@pytest.mark.parametrize("head", [b"HTTP/1.1 200 OK\r\nX-Long: ", b"HTTP/1.1 200 OK\r\nContent-Length: 900\r\n\r\n"])
def test_an_answer_that_drips_is_given_up_as_a_whole(dripping, head):
    port, content = dripping
    content[0] = head + b"y" * 900
    wire = Wire(Address(f"127.0.0.1:{port}"), timeout_s=1.0, answer_s=0.6)
    with pytest.raises(Lost):
        wire.ask("/osc/info")
    wire.close()


def test_a_file_that_drips_is_given_up_and_what_goes_at_a_pace_is_not(dripping, monkeypatch):
    monkeypatch.setattr("glintor.recording.wire.LEAST_S", 0.3)
    port, content = dripping
    content[0] = [
        b"HTTP/1.1 200 OK\r\nContent-Length: 90\r\n\r\n",
        *[b"y"] * 90,
    ]  # 4.5 s, longer than an answer may take
    wire = Wire(Address(f"127.0.0.1:{port}"), timeout_s=1.0, answer_s=2.0)
    with pytest.raises(Lost):
        list(wire.fetch("/files/a.mp4", 0))
    monkeypatch.setattr("glintor.recording.wire.LEAST_BYTES", 1)
    assert sum(len(block) for _, block in wire.fetch("/files/a.mp4", 0)) == 90
    wire.close()


def test_closing_does_not_wait_for_a_slow_fetch(dripping):
    port, content = dripping
    content[0] = b"HTTP/1.1 200 OK\r\nContent-Length: 90000\r\n\r\n" + b"y" * 90000
    wire, came, ended = Wire(Address(f"127.0.0.1:{port}"), timeout_s=60.0), threading.Event(), []

    def fetch():
        try:
            for _ in wire.fetch("/files/a.mp4", 0):
                came.set()
        except Lost as error:
            ended.append(error)

    thread = threading.Thread(target=fetch)
    thread.start()
    assert came.wait(10.0)
    wire.close()
    thread.join(5.0)
    assert not thread.is_alive() and len(ended) == 1


def test_fetching_is_stopped_while_nothing_comes(odd, tmp_path):  # noqa: F811
    stop, wait = threading.Event(), threading.Event()

    def script(request):
        if request.path.startswith("/files/"):
            stop.set()
            wait.wait(20.0)
            return 200, {}, b""
        entry = {"name": "a.mp4", "fileUrl": "/files/a.mp4", "size": 1000}
        return done({"entries": [entry], "totalEntries": 1})

    odd.script = script
    odd.link.wire._timeout_s = odd.link.wire._answer_s = 60.0
    with pytest.raises(Cancelled):
        odd.link.fetch_all(tmp_path / "home", stop=stop)
    wait.set()


@pytest.mark.parametrize(("files", "wrong"), [(20_000, False), (20_051, True)])
def test_a_list_without_end_is_refused(odd, monkeypatch, files, wrong):  # noqa: F811
    monkeypatch.setattr("glintor.recording.web_camera._PAGE", 5000)

    def script(request):
        start = request.server.asked
        request.server.asked += 5000
        stop = min(start + 5000, files)
        entries = [{"fileUrl": f"/files/{n}.mp4", "size": 1} for n in range(start, stop)]
        return done({"entries": entries, "totalEntries": files})

    odd.asked, odd.script = 0, script
    if wrong:
        with pytest.raises(Wrong, match="does not come to an end"):
            odd.link.list()
    else:
        assert len(odd.link.list()) == files


def test_a_list_that_begins_anew_each_time_ends(odd):  # noqa: F811
    entry = {"name": "a.mp4", "fileUrl": "/files/a.mp4", "size": 1000}
    odd.script = lambda _r: done({"entries": [entry], "totalEntries": 10**9})
    assert [file.path for file in odd.link.list()] == ["a.mp4"]


@pytest.mark.parametrize("size", [10**15, 10**17])
def test_a_petabyte_is_not_begun(odd, tmp_path, size):  # noqa: F811
    entry = {"name": "a.mp4", "fileUrl": "/files/a.mp4", "size": size}
    odd.script = lambda _r: done({"entries": [entry], "totalEntries": 1})
    for fetch in (lambda: odd.link.fetch("a.mp4", tmp_path), lambda: odd.link.fetch_all(tmp_path)):
        with pytest.raises(NotPossible, match="GB"):
            fetch()
    assert not list(tmp_path.iterdir()) and not any(path.startswith("/files") for path, _ in odd.seen)


@pytest.mark.parametrize(
    ("told", "year"),
    [
        ("0001:01:01 00:00:00", None), ("0001:01:01 00:00:00+14:00", None), ("1989:12:31 23:00:00+00:00", None),
        ("1990:01:02 00:00:00+00:00", 1990), ("9999:12:31 23:59:59-14:00", None), ("2026:10:14 09:30:00+01:00", 2026),
    ],
)  # fmt: skip
def test_a_clock_that_was_never_set_tells_nothing(told, year):
    at = moment(told)
    assert (at.year if at is not None else None) == year


def test_an_automatic_shutter_has_a_word():
    assert in_words("shutter", 0.0) == "automatic" and in_words("shutter", 0.02) == "1/50 s"


OPTIONS = {
    "captureStatus": "idle", "shutterSpeed": 0, "iso": 0, "dateTimeZone": "0001:01:01 00:00:00+14:00", "exposureProgram": 2,
    "captureMode": "video", "fileFormat": {"width": 0, "framerate": 0}, "remainingVideoSeconds": -1,
}  # fmt: skip


class OwnCamera:
    """A camera of one's own on the odd server: it records or not, refuses, stops by itself."""

    def __init__(self, server):
        self.status, self.refuses, self.files, self.odd = "idle", "", [], server
        server.script = self.answer

    def answer(self, request):
        if request.path == "/osc/info":
            return 200, {}, b'{"model": "one of its own kind"}'
        if request.path == "/osc/state":
            return 200, {}, b'{"state": {}}'
        name = json.loads(request.body or b"{}").get("name", "")
        if name == "camera.startCapture":
            if self.refuses:
                return 400, {}, json.dumps({"state": "error", "error": {"code": self.refuses}}).encode()
            self.status = "shooting"
        elif name == "camera.stopCapture":
            self.status = "idle"
        elif name == "camera.listFiles":
            return done({"entries": self.files, "totalEntries": len(self.files)})
        return done({"options": OPTIONS | {"captureStatus": self.status}})


@pytest.fixture
def held(odd, monkeypatch):  # noqa: F811
    monkeypatch.setattr(held_link, "ASK_EVERY_S", 0.03)
    monkeypatch.setattr(held_link, "TRY_EVERY_S", 0.03)
    monkeypatch.setattr(held_link, "BEGINS_S", 0.3)
    camera = OwnCamera(odd)
    heard = []
    link = WebCamera(odd.link.wire.address.words, timeout_s=1.0)
    made = HeldLink(link, changed=lambda: None, told=lambda what, value: heard.append((what, value)))
    made.plan(Options(MODES["sphere-5k7"]))
    yield made, camera, heard
    made.close(wait_s=3.0)
    assert not made._thread.is_alive()


def wait_for(true):
    until = time.monotonic() + 10.0
    while not true():
        assert time.monotonic() < until
        threading.Event().wait(0.01)


def light(made):
    return light_of([Camera()], {Camera().id: made.seen})


def test_odd_settings_and_clocks_do_not_end_the_link(held):
    made, _, heard = held
    wait_for(lambda: made.seen.differs)
    assert made._thread.is_alive() and made.seen.state.clock_offset_s is None and not heard
    assert "automatic" in " ".join(d.words for d in made.seen.differs)


def test_anything_that_a_look_raises_is_told_once_and_the_link_lives(held, monkeypatch):
    made, _, heard = held
    wait_for(lambda: made.seen.state is not None)
    with monkeypatch.context() as broken:
        broken.setattr(made.link, "state", lambda: 1 / 0)
        wait_for(lambda: made.seen.lost)
        threading.Event().wait(0.2)
        assert [what for what, _ in heard].count("failed") == 1
    wait_for(lambda: not made.seen.lost)


def test_the_light_is_what_the_camera_says(held):
    made, camera, heard = held
    wait_for(lambda: made.seen.state is not None)
    made.start()
    assert light(made).level == "asked"  # before any answer
    wait_for(lambda: light(made).level == "on")
    assert made.seen.roll == "rolls" and ("started", None) in heard
    camera.files = [{"fileUrl": "/files/DCIM/a.mp4", "size": 7}]
    camera.status = "idle"  # it ends by itself
    wait_for(lambda: "ended" in [what for what, _ in heard])
    assert light(made).level == "alarm" and "stopped by itself" in light(made).words
    assert next(value for what, value in heard if what == "ended").path == "DCIM/a.mp4"
    made.stop()  # there is nothing to stop, and its file is not asked for twice
    wait_for(lambda: made.seen.roll == "idle" or made._roll == "idle")
    assert "stopped" not in [what for what, _ in heard]


@pytest.mark.parametrize(
    ("code", "words"), [("storageFull", "card is full"), ("batteryLow", "flat"), ("disabledCommand", "just now")]
)
def test_a_refusal_is_an_alarm_and_no_red_light(held, code, words):
    made, camera, _ = held
    camera.refuses = code
    made.start()
    wait_for(lambda: made.seen.roll == "refused")
    assert light(made).level == "alarm" and words in light(made).words and "DOES NOT ROLL" in light(made).words


def test_a_camera_that_says_yes_and_does_not_record_is_an_alarm(held):
    made, camera, _ = held
    wait_for(lambda: made.seen.state is not None)
    plain = camera.answer
    camera.odd.script = lambda request: plain(request) if b"startCapture" not in request.body else done({})
    made.start()
    wait_for(lambda: light(made).level == "alarm")
    assert "does not record" in light(made).words


def test_a_camera_that_was_restarted_is_told_to_have_ended(held):
    made, camera, heard = held
    made.start()
    wait_for(lambda: made.seen.roll == "rolls")
    camera.odd.script = lambda _r: (None, {}, b"")
    wait_for(lambda: made.seen.lost)
    assert light(made).level == "alarm" and "NO ANSWER, rolled when it last answered" in light(made).words
    camera.status, camera.odd.script = "idle", camera.answer
    wait_for(lambda: "ended" in [what for what, _ in heard])
    assert ("back", False) in heard and light(made).level == "alarm"


def test_a_file_that_is_older_than_the_recording_is_not_called_its_file(odd):  # noqa: F811
    from datetime import datetime, timedelta

    now = datetime.now().astimezone()
    for ago_min, own in ((2.9, True), (3.2, False)):
        at = now - timedelta(minutes=ago_min)
        stamp = f"{at:%Y:%m:%d %H:%M:%S}+00:00".replace("+00:00", f"{at:%z}"[:3] + ":" + f"{at:%z}"[3:])
        told = f"{now:%Y:%m:%d %H:%M:%S}" + f"{now:%z}"[:3] + ":" + f"{now:%z}"[3:]
        entry = {"fileUrl": "/files/a.mp4", "size": 7, "dateTimeZone": stamp}

        def script(request, entry=entry, told=told):
            if b"listFiles" in request.body:
                return done({"entries": [entry], "totalEntries": 1})
            return done({"options": {"dateTimeZone": told}})

        odd.script = script
        odd.link.goes_on_rolling(60.0)  # a minute; a file may be two older
        assert (odd.link.ended_file() is not None) == own


def test_one_light_for_several_cameras():
    one, two = Camera(id="one", name="one"), Camera(id="two", name="two")
    rolls, asked, lost = Seen(roll="rolls"), Seen(roll="asked"), Seen(roll="rolls", lost_at=1.0)
    for seen, level in (
        ({}, "clock"), ({"one": rolls}, "on"), ({"one": rolls, "two": rolls}, "on"), ({"one": rolls, "two": asked}, "asked"),
        ({"one": rolls, "two": lost}, "alarm"), ({"one": rolls, "two": Seen()}, "alarm"), ({"one": Seen(roll="refused", why="Full")}, "alarm"),
    ):  # fmt: skip
        assert light_of([one, two], seen).level == level, seen
    told = light_of([one, two], {"one": rolls, "two": replace(lost)})
    assert told.words.startswith("two: NO ANSWER") and told.words.endswith("one: rolls")


@pytest.mark.parametrize(
    ("host", "status"), [("127.0.0.1", 200), ("localhost:80", 200), ("evil.example", 421), ("", 421)]
)
def test_the_simulated_camera_answers_this_machine_only(served, host, status):  # noqa: F811
    _, server, _ = served
    for lines in (
        ("GET /osc/info HTTP/1.1", f"Host: {host}"),
        ("POST /osc/state HTTP/1.1", f"Host: {host}", "Content-Length: 0"),
    ):
        answer = raw(server, *lines, "Connection: close")
        assert int(answer.split()[1]) == status, answer
