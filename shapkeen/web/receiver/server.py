"""The server: uploads in parts that can be taken up again, status by stage, renditions.

Uploads follow the draft of Resumable Uploads for HTTP (IETF, draft-ietf-httpbis-resumable-upload)
in its headers: Upload-Offset, Upload-Complete, Upload-Length; from memory.
"""

import json
import re
import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass, field
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from threading import Lock
from typing import Any, Protocol
from urllib.parse import SplitResult, parse_qs, urlsplit

from ...core.errors import CoreError
from ...core.rehearsed.stand_in import StandIn
from .faults import Faults
from .status import renditions_at, simulated_s, status_of
from .store import Store, Upload
from .working import Worker

CHUNK = 64 * 1024
MOST_JSON = 64 * 1024
MOST_DRAINED, DRAIN_S = 64 * 1024 * 1024, 2.0
SAYS_SO = ("Simulation", "stand-in")
LOCAL = ("127.0.0.1", "localhost")
Query = dict[str, list[str]]


@dataclass(slots=True)
class Service:
    """What the server is about. speed: simulated seconds a second."""

    stand_in: StandIn
    store: Store
    worker: Worker
    faults: Faults
    speed: float = 1.0
    _busy: set[str] = field(default_factory=set)
    _lock: Lock = field(default_factory=Lock)

    @contextmanager
    def only_one(self, key: str) -> Iterator[None]:
        """Hold an upload; raises RefusedError while another request appends to it."""
        with self._lock:
            if key in self._busy:
                raise RefusedError(HTTPStatus.CONFLICT, "Another request appends to this upload.")
            self._busy.add(key)
        try:
            yield
        finally:
            self._busy.discard(key)


class Readable(Protocol):
    """What bytes are read from."""

    def read(self, size: int, /) -> bytes:
        """Return so many bytes at most."""


class RefusedError(Exception):
    """An answer that is no success: its status, and what to say."""

    def __init__(self, status: HTTPStatus, text: str, **more: Any) -> None:
        """Keep them."""
        super().__init__(text)
        self.status, self.more = status, {"text": text, **more}


class CutError(Exception):
    """The connection is cut on purpose."""


def serve(service: Service, port: int) -> ThreadingHTTPServer:
    """Return a server on loopback that is bound and not yet running; port 0: any that is free."""

    class Handler(_Handler):
        about = service

    server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
    server.daemon_threads = True
    service.worker.start(service.store)
    return server


class _Handler(BaseHTTPRequestHandler):
    about: Service
    protocol_version = "HTTP/1.1"
    server_version = "StandIn"
    timeout = 600

    def do_GET(self) -> None:
        self._answer("GET")

    def do_HEAD(self) -> None:
        self._answer("HEAD")

    def do_POST(self) -> None:
        self._answer("POST")

    def do_PATCH(self) -> None:
        self._answer("PATCH")

    def do_DELETE(self) -> None:
        self._answer("DELETE")

    def log_message(self, format: str, *args: Any) -> None:  # noqa: A002  (the library's name)
        """Say nothing: whoever tries a script looks at its own words."""

    def _answer(self, method: str) -> None:
        try:
            self._do(method, urlsplit(self.path))
        except RefusedError as error:
            self._json(error.more, error.status)
            self._drain()
        except CoreError as error:
            told = {"text": error.text, "code": error.code, "where": error.where}
            self._json(told, HTTPStatus.BAD_REQUEST)
            self._drain()
        except (CutError, ConnectionError, TimeoutError):
            self.close_connection = True

    def _drain(self) -> None:
        """Read what is left of a refused body: a client that still sends would not hear why."""
        text = self.headers.get("Content-Length") or "0"
        left = min(int(text) if text.isascii() and text.isdecimal() else 0, MOST_DRAINED)
        self.connection.settimeout(DRAIN_S)
        with suppress(OSError):
            while left > 0 and (part := self.rfile.read1(min(CHUNK, left))):
                left -= len(part)

    def _do(self, method: str, address: SplitResult) -> None:
        """Do what an address asks for; raises RefusedError where there is no such thing."""
        self._check(address.path)
        for pattern, deeds in _ADDRESSES:
            found = pattern.fullmatch(address.path)
            if found and method in deeds:
                deeds[method](self, parse_qs(address.query), *found.groups())
                return
            if found:
                raise RefusedError(HTTPStatus.METHOD_NOT_ALLOWED, f"Here go {', '.join(deeds)}.")
        raise RefusedError(HTTPStatus.NOT_FOUND, "There is nothing at this address.")

    def _check(self, path: str) -> None:
        """Refuse what comes from elsewhere, and everything while the service is to refuse."""
        host = (self.headers.get("Host") or "").rsplit(":", 1)[0]
        if host not in LOCAL:
            raise RefusedError(HTTPStatus.MISDIRECTED_REQUEST, "This is reached on loopback alone.")
        if self.about.faults.refuse and path != "/faults":
            raise RefusedError(
                HTTPStatus.SERVICE_UNAVAILABLE, "Told to refuse.", code="told-to-refuse"
            )

    def _json(
        self, told: dict[str, Any], status: HTTPStatus = HTTPStatus.OK, **headers: str
    ) -> None:
        if status >= HTTPStatus.BAD_REQUEST:
            self.close_connection = True  # what of a body was not read must not be taken for more
        body = json.dumps({"simulation": True, **told}, ensure_ascii=False).encode()
        self._head(status, len(body), **{"Content-Type": "application/json", **headers})
        if self.command != "HEAD":
            self.wfile.write(body)

    def _head(self, status: HTTPStatus, length: int, **headers: str) -> None:
        self.send_response(status)
        self.send_header(*SAYS_SO)
        if status != HTTPStatus.NO_CONTENT:
            self.send_header("Content-Length", str(length))
        for name, value in headers.items():
            self.send_header(name, value)
        if self.close_connection:
            self.send_header("Connection", "close")
        self.end_headers()

    def _length(self) -> int:
        text = self.headers.get("Content-Length") or "0"
        if not text.isascii() or not text.isdecimal():
            raise RefusedError(HTTPStatus.LENGTH_REQUIRED, "State the Content-Length.")
        return int(text)

    def _body(self) -> dict[str, Any]:
        length = self._length()
        if length > MOST_JSON:
            raise RefusedError(HTTPStatus.REQUEST_ENTITY_TOO_LARGE, "That is too much JSON.")
        try:
            found = json.loads(self.rfile.read(length) or b"{}")
        except (ValueError, RecursionError) as error:
            raise RefusedError(HTTPStatus.BAD_REQUEST, "This is no JSON.") from error
        if not isinstance(found, dict):
            raise RefusedError(HTTPStatus.BAD_REQUEST, "Send a JSON object.")
        return found

    def _upload(self, key: str) -> Upload:
        found = self.about.store.find(key)
        if found is None:
            raise RefusedError(HTTPStatus.NOT_FOUND, "There is no such upload.")
        return found

    def _at(self, upload: Upload, query: Query) -> float:
        """Return the simulated second: by the clock, or as ?at asks."""
        asked = query.get("at", [""])[0]
        if asked.isascii() and asked.isdecimal() and len(asked) < 10:
            return float(asked)
        return simulated_s(upload.meta, self.about.speed)

    def describe(self, _query: Query) -> None:
        """Say what service this stands in for."""
        one = self.about.stand_in
        stages = [stage.name for stage in one.stages]
        self._json({"service": one.name, "text": one.note, "key": one.key, "stages": stages})

    def tell_faults(self, _query: Query) -> None:
        """Say what goes wrong on purpose."""
        self._json(asdict(self.about.faults))

    def set_faults(self, _query: Query) -> None:
        """Have other things go wrong."""
        self.about.faults = self.about.faults.changed(self._body())
        self._json(asdict(self.about.faults))

    def listing(self, query: Query) -> None:
        """Name every upload, and where it stands."""
        told = [self._status(one, query) for one in self.about.store.all()]
        self._json({"uploads": told})

    def begin(self, _query: Query) -> None:
        """Begin an upload; one that is too large is refused before a byte of it came."""
        asked = self._body()
        most = self.about.stand_in.takes.most_bytes
        size = asked.get("size")
        if most and isinstance(size, int) and size > most:
            raise RefusedError(
                HTTPStatus.REQUEST_ENTITY_TOO_LARGE,
                f"The file is too large: at most {most} bytes.",
                code="bytes",
                limit=most,
            )
        made = self.about.store.begin(asked.get("name"), size, asked.get("sha256"))
        place = f"/uploads/{made.key}"
        headers = {"Location": place, "Upload-Offset": "0", "Upload-Complete": "?0"}
        self._json({"upload": made.key, "location": place}, HTTPStatus.CREATED, **headers)

    def offset(self, _query: Query, key: str) -> None:
        """Say how much of an upload came, so that it goes on from there."""
        upload = self._upload(key)
        self._head(HTTPStatus.NO_CONTENT, 0, **_offset_of(upload))

    def append(self, _query: Query, key: str) -> None:
        """Take more of an upload; whatever came before a cut is kept."""
        upload = self._upload(key)
        with self.about.only_one(key):
            self._append(upload)
        self._head(HTTPStatus.NO_CONTENT, 0, **_offset_of(upload))

    def _append(self, upload: Upload) -> None:
        length = self._length()
        if self.headers.get("Upload-Offset") != str(upload.offset) or upload.is_whole:
            raise RefusedError(
                HTTPStatus.CONFLICT, "The upload stands elsewhere.", offset=upload.offset
            )
        if upload.offset + length > upload.meta["size"]:
            raise RefusedError(
                HTTPStatus.REQUEST_ENTITY_TOO_LARGE, "That is more than was announced."
            )
        with upload.file.open("ab", buffering=0) as file:
            for part in self._parts(self.rfile, length):
                file.write(part)
        if upload.offset == upload.meta["size"]:
            self.about.worker.take(upload)

    def _parts(self, source: Readable, length: int) -> Iterator[bytes]:
        """Yield what is read of a body, slowly or cut where that is asked for."""
        faults = self.about.faults
        cut = faults.place_of_cut()
        done = 0
        while done < length:
            most = min(CHUNK, length - done)
            if cut is not None:
                most = min(most, cut - done)
                if most <= 0:
                    raise CutError
            part = source.read(most)
            if not part:
                raise ConnectionError
            faults.hold_back(len(part))
            yield part
            done += len(part)

    def tell(self, query: Query, key: str) -> None:
        """Say where an upload stands."""
        self._json(self._status(self._upload(key), query))

    def _status(self, upload: Upload, query: Query) -> dict[str, Any]:
        about = self.about
        return status_of(upload, about.stand_in, about.faults, self._at(upload, query))

    def forget(self, _query: Query, key: str) -> None:
        """Forget an upload."""
        shutil.rmtree(self._upload(key).folder, ignore_errors=True)
        self._head(HTTPStatus.NO_CONTENT, 0)

    def rendition(self, query: Query, key: str, name: str) -> None:
        """Send a rendition that is there at the simulated time."""
        upload = self._upload(key)
        found = renditions_at(upload, self.about.faults, self._at(upload, query)).get(name)
        if found is None:
            raise RefusedError(HTTPStatus.NOT_FOUND, "That rendition is not there, or not yet.")
        self._send(found)

    def _send(self, path: Path) -> None:
        size = path.stat().st_size
        kind = {"Content-Type": "application/octet-stream"}
        self._head(HTTPStatus.OK, size, **kind)
        with path.open("rb") as file:
            for part in self._parts(file, size):
                self.wfile.write(part)


def _offset_of(upload: Upload) -> dict[str, str]:
    return {
        "Upload-Offset": str(upload.offset),
        "Upload-Length": str(upload.meta["size"]),
        "Upload-Complete": "?1" if upload.is_whole else "?0",
        "Cache-Control": "no-store",
    }


Deed = Callable[..., None]
_UPLOAD = r"/uploads/([0-9a-f]{32})"
_ADDRESSES: tuple[tuple[re.Pattern[str], dict[str, Deed]], ...] = (
    (re.compile("/"), {"GET": _Handler.describe}),
    (re.compile("/faults"), {"GET": _Handler.tell_faults, "POST": _Handler.set_faults}),
    (re.compile("/uploads"), {"GET": _Handler.listing, "POST": _Handler.begin}),
    (
        re.compile(_UPLOAD),
        {
            "GET": _Handler.tell,
            "HEAD": _Handler.offset,
            "PATCH": _Handler.append,
            "DELETE": _Handler.forget,
        },
    ),
    (re.compile(_UPLOAD + r"/renditions/([\w.-]{1,120})"), {"GET": _Handler.rendition}),
)
