"""One connection to a camera: JSON over HTTP, kept open, with limits on all that comes back. Nothing leads anywhere else."""

import contextlib
import http.client
import json
import socket
import threading
import time
from collections.abc import Iterator
from typing import Any
from urllib.parse import urlsplit

from glintor.recording.link import LinkError

MOST_JSON_BYTES = 4 << 20
BLOCK_BYTES = 1 << 18
LEAST_BYTES, LEAST_S = 1 << 16, 20.0  # of a file at least so much comes in so long (judgement): less is no link
_HEADERS = {"Accept": "application/json", "X-XSRF-Protected": "1", "Content-Type": "application/json;charset=utf-8"}


class Lost(LinkError):
    """The camera does not answer."""


class Wrong(LinkError):
    """The camera answers what makes no sense."""


class Address:
    """Where a camera is. Raises LinkError for what is no plain HTTP address."""

    def __init__(self, words: str) -> None:
        parts = urlsplit(words if "//" in words else f"//{words}", scheme="http")
        try:
            port = parts.port or 80
        except ValueError:
            port = 0
        if parts.scheme != "http" or not parts.hostname or not port or parts.username:
            raise LinkError(
                f"{words} is no address of a camera.", advice="It looks like 192.168.1.1, or 127.0.0.1:8360."
            )
        self.host, self.port = parts.hostname, port

    @property
    def words(self) -> str:
        return self.host if self.port == 80 else f"{self.host}:{self.port}"

    def path_of(self, url: str) -> str:
        """The path of a file's address, which must be on this camera. Raises Wrong."""
        parts = urlsplit(url)
        if parts.scheme == "" and parts.netloc == "" and url.startswith("/"):
            return url
        if parts.scheme != "http" or parts.hostname != self.host or (parts.port or 80) != self.port:
            raise Wrong(
                "The camera names a file that is not its own.",
                unharmed="It was not fetched.",
                advice="Take the card out and offload it.",
            )
        return parts.path + (f"?{parts.query}" if parts.query else "")


class Wire:
    """Requests one after the other, from any thread. Every call may raise Lost or Wrong.

    timeout_s   how long the camera may be silent; answer_s: how long a whole answer may take, however it drips
    """

    def __init__(self, address: Address, timeout_s: float = 5.0, answer_s: float | None = None) -> None:
        self.address, self._timeout_s = address, timeout_s
        self._answer_s = answer_s if answer_s is not None else 2.0 * timeout_s
        self._kept: http.client.HTTPConnection | None = None
        self._turn = threading.Lock()
        self._closed = False

    def close(self) -> None:
        """Ends it, also what another thread waits for just now, which is then lost."""
        self._closed = True
        self._cut()
        with self._turn:
            self._drop()

    def _cut(self) -> None:
        """Ends what a connection is waited for, from another thread."""
        kept = self._kept
        if kept is not None and kept.sock is not None:
            with contextlib.suppress(OSError):
                kept.sock.shutdown(socket.SHUT_RDWR)

    @contextlib.contextmanager
    def _in_time(self) -> Iterator[None]:
        """What is done in it ends after `answer_s`, with whatever an ended connection raises."""
        watch = threading.Timer(self._answer_s, self._cut)
        watch.daemon = True
        watch.start()
        try:
            yield
        finally:
            watch.cancel()

    def ask(self, path: str, body: dict[str, Any] | None = None, *, once: bool = False) -> dict[str, Any]:
        """What the camera answers to a POST (a GET where there is no body): an object, also one that tells of an error. once: it may
        have been heard although no answer came, and is not sent again."""
        content = None if body is None else json.dumps(body).encode()
        with self._turn:
            if once:
                self._drop()  # a connection that was kept may be gone without a word
            with self._in_time():
                answer = self._send("GET" if body is None else "POST", path, content, dict(_HEADERS))
                raw = self._read(answer, MOST_JSON_BYTES)
        try:
            told = json.loads(raw)
        except (ValueError, RecursionError) as error:
            raise self._wrong(answer.status) from error
        if not isinstance(told, dict):
            raise self._wrong(answer.status)
        if answer.status != 200 and "error" not in told:
            raise self._wrong(answer.status)
        return told

    def fetch(self, path: str, from_byte: int) -> Iterator[tuple[int, bytes]]:
        """A file from a byte on: first where the camera really begins with no bytes, then block after block with where it lies."""
        headers = {"X-XSRF-Protected": "1"} | ({"Range": f"bytes={from_byte}-"} if from_byte else {})
        with self._turn:
            with self._in_time():
                answer = self._send("GET", path, None, headers)
            if answer.status not in (200, 206):
                self._drop()
                if answer.status == 404:
                    raise Wrong("The file is not on the camera any more.", advice="Look at its list again.")
                raise self._wrong(answer.status)
            at = _begins(answer) if answer.status == 206 else 0
            if at is None or at > from_byte:
                self._drop()
                raise Wrong("The camera sends another part than was asked for.", advice="Offload the card instead.")
            yield at, b""
            whole, since, came = False, time.monotonic(), 0
            try:
                while block := answer.read1(BLOCK_BYTES):
                    yield at, block
                    at, came = at + len(block), came + len(block)
                    if time.monotonic() - since > LEAST_S:
                        if came < LEAST_BYTES:
                            raise self._lost()
                        since, came = time.monotonic(), 0
                whole = not answer.length  # of what it promised nothing is left
                answer.close()  # of the connection only this answer is over
            except (OSError, http.client.HTTPException) as error:
                raise self._lost() from error
            finally:
                if not whole:
                    self._drop()
            if not whole:
                raise self._lost()

    # One request
    def _send(self, method: str, path: str, content: bytes | None, headers: dict[str, str]) -> http.client.HTTPResponse:
        """Sends it; once more on a fresh connection where the one that was kept had gone."""
        fresh = self._kept is None
        try:
            return self._once(method, path, content, headers)
        except (http.client.RemoteDisconnected, BrokenPipeError, ConnectionResetError) as error:
            self._drop()
            if fresh:
                raise self._lost() from error
        except (OSError, http.client.HTTPException) as error:
            self._drop()
            raise self._lost() from error
        try:
            return self._once(method, path, content, headers)
        except (OSError, http.client.HTTPException) as error:
            self._drop()
            raise self._lost() from error

    def _once(self, method: str, path: str, content: bytes | None, headers: dict[str, str]) -> http.client.HTTPResponse:
        if self._closed:
            raise self._lost()
        if self._kept is None:
            self._kept = http.client.HTTPConnection(self.address.host, self.address.port, timeout=self._timeout_s)
            self._kept.connect()
            self._kept.sock.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self._kept.request(method, path, body=content, headers=headers)
        answer = self._kept.getresponse()
        if 300 <= answer.status < 400:
            self._drop()
            raise Wrong(
                "The camera sends one elsewhere, which is not followed.",
                unharmed="Nothing was asked of anyone else.",
                advice="Check that this is the camera's own network.",
            )
        return answer

    def _read(self, answer: http.client.HTTPResponse, most: int) -> bytes:
        try:
            raw = answer.read(most + 1)
        except (OSError, http.client.HTTPException) as error:
            self._drop()
            raise self._lost() from error
        if answer.length and len(raw) <= most:
            self._drop()
            raise self._lost()
        if len(raw) > most:
            self._drop()
            raise Wrong("The camera's answer is too long to be one.", advice="Switch the camera off and on.")
        return raw

    def _drop(self) -> None:
        if self._kept is not None:
            self._kept.close()
            self._kept = None

    def _lost(self) -> Lost:
        return Lost(
            f"The camera at {self.address.words} does not answer.",
            unharmed="What it records goes on by itself.",
            advice="Come nearer, or look at its own display.",
        )

    def _wrong(self, status: int) -> Wrong:
        return Wrong(
            f"The camera at {self.address.words} answers what makes no sense"
            + (f" (HTTP {status})." if status != 200 else "."),
            advice="Check that this address is a camera's; switch it off and on.",
        )


def _begins(answer: http.client.HTTPResponse) -> int | None:
    """The first byte of a part, by its Content-Range (RFC 9110, section 14.4)."""
    words = (answer.getheader("Content-Range") or "").removeprefix("bytes ").partition("-")[0].strip()
    return int(words) if words.isdigit() else None
