"""The client of the open web API against the simulated camera's server, and against servers that fail, stall and lie."""

import http.client
import json
import socket
import subprocess
import sys
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest
from msgspec.structs import replace

from glintor.exposure.modes import MODES
from glintor.files import file_hash
from glintor.project.model import default_kit
from glintor.project.store import read_project
from glintor.recording.link import BatteryLow, Busy, CardGone, LinkError, NotPossible, options_for
from glintor.recording.settings import asked, differences
from glintor.recording.web_camera import WebCamera
from glintor.recording.wire import Address, Lost, Wrong
from glintor.simulation.body import SimulatedCamera
from glintor.simulation.recording import Recording
from glintor.simulation.serving import MOST_BODY_BYTES, CameraServer


@pytest.fixture
def served(day, tmp_path):
    project = read_project(day)
    shot, card = project.shot("wharf-portrait"), tmp_path / "card"
    card.mkdir()
    (tmp_path / "secret.txt").write_text("not for anyone")
    camera = SimulatedCamera(Recording(shot, project.site, default_kit().cameras[0], 0.5, 320), card)
    with CameraServer(camera, card) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        link = WebCamera(server.address)
        yield link, server, shot
        link.close()
        server.shutdown()


def test_a_shot_is_set_read_back_recorded_and_fetched(served, tmp_path):
    link, server, shot = served
    assert link.info().levels == (2,) and link.info().model == "simulated camera"
    state = link.state()
    assert not state.recording and state.battery_share == 1.0 and "battery 100 %" in state.words.replace("%", " %")
    assert abs(state.clock_offset_s) < 3.0 and state.temperature_c is None  # which the API does not tell
    wanted = options_for(replace(shot.exposure, shutter_s=1 / 100, iso=200.0, white_k=5200.0))
    assert differences(asked(wanted), link.told())
    link.set_options(wanted)
    assert differences(asked(wanted), link.told()) == ()
    auto = options_for(replace(shot.exposure, program="auto", offset_stops=-0.7))
    link.set_options(auto)
    assert server.camera.options().program == "auto" and differences(asked(auto), link.told()) == ()
    link.set_options(wanted)

    link.start()
    with pytest.raises(Busy):
        server.camera.set_options(wanted)
    assert link.rolling_s is not None
    server.camera.wait()
    file = link.stop()
    assert file.name == "clip-0001.mp4" and file.size_bytes == (server.card / file.path).stat().st_size
    assert [f.path for f in link.list()] == [file.path] and link.rolling_s is None
    got = link.fetch(file.name, tmp_path / "home")
    assert file_hash(got) == file_hash(server.card / file.path) and not list((tmp_path / "home").glob(".*"))
    with pytest.raises(NotPossible, match="already"):
        link.fetch(file.name, tmp_path / "home")
    with pytest.raises(CardGone):
        link.fetch("nothing.mp4", tmp_path / "home")
    link.set_options(options_for(shot.exposure, MODES["photo"]))
    (photo,) = link.take_picture()
    assert photo.path.startswith("photos/") and photo.size_bytes > 1000
    with pytest.raises(NotPossible):
        link.start()  # in a photo mode


def test_what_comes_in_parts_goes_on_where_it_was_cut(served, tmp_path, monkeypatch):
    link, server, _ = served
    (server.card / "clips").mkdir()
    film = server.card / "clips" / "clip-0007.mp4"
    film.write_bytes(bytes(range(256)) * 8000)
    monkeypatch.setattr("glintor.recording.wire.BLOCK_BYTES", 1 << 16)
    asked_for = []
    plain = link.wire.fetch

    def cut(path, from_byte):
        asked_for.append(from_byte)
        for number, block in enumerate(plain(path, from_byte)):
            if number == 5 and len(asked_for) == 1:
                raise Lost("gone")
            yield block

    monkeypatch.setattr(link.wire, "fetch", cut)
    with pytest.raises(Lost):
        link.fetch(film.name, tmp_path / "home")
    assert [f.name[0] for f in (tmp_path / "home").iterdir()] == ["."]
    shares = []
    got = link.fetch(film.name, tmp_path / "home", shares.append)
    assert got.read_bytes() == film.read_bytes() and asked_for[0] == 0 and shares[0] > 0.01
    assert len(asked_for) == 2 and 0 < asked_for[1] <= 4 << 16


def raw(server, *lines, body=b""):
    with socket.create_connection(server.server_address, timeout=10) as line:
        line.sendall("\r\n".join([*lines, "", ""]).encode() + body)
        line.shutdown(socket.SHUT_WR)
        return b"".join(iter(lambda: line.recv(65536), b""))


def test_the_server_keeps_to_its_card_and_to_this_machine(served):
    link, server, _ = served
    assert server.server_address[0] == "127.0.0.1"
    for path in (
        "/files/../secret.txt",
        "/files/%2e%2e/secret.txt",
        "/files//etc/passwd",
        "/files/.camera.json",
        "/files/",
    ):
        answer = raw(server, f"GET {path} HTTP/1.1", "Host: 127.0.0.1", "Connection: close")
        assert b" 404 " in answer.split(b"\r\n")[0] and b"not for anyone" not in answer, path
    long = raw(server, "POST /osc/state HTTP/1.1", "Host: 127.0.0.1", f"Content-Length: {MOST_BODY_BYTES + 1}")
    assert b" 413 " in long.split(b"\r\n")[0]
    for body in (b"{", b"[]", b"[" * 90_000):
        wrong = raw(
            server, "POST /osc/commands/execute HTTP/1.1", "Host: 127.0.0.1", f"Content-Length: {len(body)}", body=body
        )
        assert b" 400 " in wrong.split(b"\r\n")[0]
    for name, parameters, code in (
        ("camera.fly", {}, "unknownCommand"),
        ("camera.getOptions", {"optionNames": ["moon"]}, "invalidParameterName"),
        ("camera.setOptions", {"options": {"iso": "much"}}, "invalidParameterValue"),
        ("camera.setOptions", {"options": {"fileFormat": 3}}, "invalidParameterValue"),
        ("camera.listFiles", {}, "invalidParameterValue"),
        ("camera.stopCapture", [], "invalidParameterValue"),
    ):
        told = link.wire.ask("/osc/commands/execute", {"name": name, "parameters": parameters})
        assert told["error"]["code"] == code, name
    assert link._told("moon", "iso").keys() == {"iso"}  # what it does not have is left out, the rest comes


class Odd(BaseHTTPRequestHandler):
    """Answers what its server's `script` says, by path."""

    protocol_version = "HTTP/1.1"
    body = b""

    def do_GET(self):
        self.body = b""
        self._do()

    def do_POST(self):
        self.body = self.rfile.read(int(self.headers.get("Content-Length", 0)))
        self._do()

    def _do(self):
        self.server.seen.append((self.path, self.headers.get("Range")))
        status, headers, content = self.server.script(self)
        if status is None:  # it hangs up
            self.close_connection = True
            return
        self.send_response(status)
        told = dict(headers)
        told.setdefault("Content-Length", str(len(content)))
        for name, value in told.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(content)
        if int(told["Content-Length"]) != len(content):
            self.close_connection = True

    def log_message(self, *_words):
        pass


@pytest.fixture
def odd():
    with ThreadingHTTPServer(("127.0.0.1", 0), Odd) as server:
        server.seen, server.script = [], lambda _r: (200, {}, b"{}")
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, daemon=True).start()
        server.link = WebCamera(f"127.0.0.1:{server.server_address[1]}", timeout_s=0.5)
        yield server
        server.link.close()
        server.shutdown()


def done(results):
    return 200, {}, json.dumps({"state": "done", "results": results}).encode()


def files(odd, size, told=None, url=None):
    """One film on a camera, of which it says what it likes, and its bytes."""
    name = url or f"http://127.0.0.1:{odd.server_address[1]}/files/a.mp4"

    def script(request):
        if request.path == "/files/a.mp4":
            return (told or (lambda _r: (200, {}, b"x" * size)))(request)
        return done({"entries": [{"name": "a.mp4", "fileUrl": name, "size": size}], "totalEntries": 1})

    odd.script = script
    return odd.link


@pytest.mark.parametrize(
    ("answer", "error", "words"),
    [
        ((404, {}, b"nothing"), Wrong, "makes no sense"),
        ((200, {}, b"<html>"), Wrong, "makes no sense"),
        ((200, {}, b"[1, 2]"), Wrong, "makes no sense"),
        ((200, {"Content-Length": "500"}, b'{"state": "do'), Lost, "does not answer"),
        ((None, {}, b""), Lost, "does not answer"),
        ((302, {"Location": "http://example.org/osc/state"}, b""), Wrong, "elsewhere"),
        ((200, {}, b'{"x": "' + b"y" * (5 << 20) + b'"}'), Wrong, "too long"),
        ((200, {}, b'{"state": "error", "error": {"code": "batteryLow", "message": "5 %"}}'), BatteryLow, "flat"),
        ((200, {}, b'{"state": "error", "error": "bad"}'), Wrong, "makes no sense"),
        ((400, {}, b'{"state": "error", "error": {"code": "noStorage"}}'), CardGone, "no card"),
    ],
)
def test_a_camera_that_answers_wrongly_is_said_in_words(odd, answer, error, words):
    odd.script = lambda _r: answer
    with pytest.raises(error, match=words):
        odd.link.start()
    assert odd.link.rolling_s is None and len(odd.seen) == 1  # a command that may have been heard is not sent again
    odd.script = lambda _r: done({})
    odd.link.start()  # and it finds its way back
    assert odd.link.rolling_s is not None


def test_one_that_does_not_answer_at_all_and_slow_bytes_are_given_up(odd):
    waits = threading.Event()
    odd.script = lambda _r: (waits.wait(3), (200, {}, b"{}"))[1]
    with pytest.raises(Lost):
        odd.link.info()
    waits.set()
    with socket.create_server(("127.0.0.1", 0)) as deaf:
        address = f"127.0.0.1:{deaf.getsockname()[1]}"
        with pytest.raises(Lost), WebCamera(address, timeout_s=0.3) as link:
            link.state()
    with pytest.raises(Lost), WebCamera(address, timeout_s=0.3) as link:  # nobody is there any more
        link.state()


def test_files_that_are_not_as_it_says_are_not_kept(odd, tmp_path):
    home = tmp_path / "home"
    for told in (lambda _r: (200, {}, b"x" * 900), lambda _r: (200, {}, b"x" * 1100)):
        with pytest.raises(Wrong, match="not as long"):
            files(odd, 1000, told).fetch("a.mp4", home)
        assert not (home / "a.mp4").exists()
    for part in home.glob(".a.mp4*"):
        part.unlink()
    half = lambda _r: (200, {"Content-Length": "1000"}, b"x" * 400)  # noqa: E731
    with pytest.raises(Lost):
        files(odd, 1000, half).fetch("a.mp4", home)
    odd.seen.clear()
    deaf = lambda _r: (200, {}, b"y" * 1000)  # noqa: E731  # it begins anew whatever it is asked for
    assert files(odd, 1000, deaf).fetch("a.mp4", home).read_bytes() == b"y" * 1000
    assert ("/files/a.mp4", "bytes=400-") in odd.seen
    other = lambda _r: (206, {"Content-Range": "bytes 700-999/1000"}, b"z" * 300)  # noqa: E731
    (home / "a.mp4").unlink()
    (home / ".a.mp4.1000.part").write_bytes(b"x" * 400)
    with pytest.raises(Wrong, match="another part"):
        files(odd, 1000, other).fetch("a.mp4", home)
    for url in ("http://example.org/files/a.mp4", "ftp://127.0.0.1/a.mp4", "/files/../../etc/passwd", "/files/.x"):
        with pytest.raises(LinkError):
            files(odd, 1000, url=url).list()
    assert not (home / "a.mp4").exists()


def test_an_address_is_one_of_a_camera():
    assert (Address("192.168.1.1").words, Address("http://127.0.0.1:8360").words) == ("192.168.1.1", "127.0.0.1:8360")
    for wrong in ("https://192.168.1.1", "ftp://x", "", "x:99999", "http://me:secret@x"):
        with pytest.raises(LinkError):
            Address(wrong)


def test_the_command_puts_a_camera_on_the_air(day, tmp_path):
    card = tmp_path / "card"
    words = [sys.executable, "-m", "glintor.cli", "camera", str(day), "--shot", "pell-lock", "--card", str(card)]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as process:
        said = process.stdout.readline()
        address = said.split(" at ")[1].split(",")[0]
        try:
            with WebCamera(address) as link:
                assert link.info().levels == (2,)
            line = http.client.HTTPConnection(address, timeout=5)
            line.request("GET", "/elsewhere")
            answer = line.getresponse()
            assert answer.status == 404 and answer.read()
            line.close()
        finally:
            process.terminate()
