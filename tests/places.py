"""Stand-ins for remote places: a local server with ranges, etags, faults and slow answers, and an object store."""

from __future__ import annotations

import hashlib
import re
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from urllib.parse import unquote


class Server(ThreadingHTTPServer):
    """Serves the files of a folder, its folders as pages of links.

    Attributes
    ----------
    fails
        How many more times each path breaks off midway, by path.
    with_ranges, with_tags, with_sizes
        What it does and says.
    pause
        Seconds before each answer.
    asked
        How often each method and path was asked for.
    """

    daemon_threads = True

    def __init__(self, folder: Path) -> None:
        super().__init__(("127.0.0.1", 0), _Handler)
        self.folder = folder
        self.fails: Counter[str] = Counter()
        self.with_ranges = self.with_tags = self.with_sizes = True
        self.pause = 0.0
        self.asked: Counter[tuple[str, str]] = Counter()
        self.sent = 0

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.server_address[1]}"

    def handle_error(self, request: object, client_address: object) -> None:
        """Say nothing: it breaks off on purpose."""


class _Handler(BaseHTTPRequestHandler):
    server: Server
    protocol_version = "HTTP/1.1"

    def do_HEAD(self) -> None:
        self._answer(False)

    def do_GET(self) -> None:
        self._answer(True)

    def _answer(self, with_body: bool) -> None:
        server, path = self.server, unquote(self.path.partition("?")[0])
        server.asked[self.command, path] += 1
        time.sleep(server.pause)
        place = server.folder / path.lstrip("/")
        if place.is_dir():
            links = "".join(
                f'<a href="{each.name}{"/" * each.is_dir()}">{each.name}</a><br>'
                for each in sorted(place.iterdir())
            )
            page = f'<a href="?C=N">Name</a><a href="../">up</a>{links}'
            self._send(200, page.encode(), {"Content-Type": "text/html"}, with_body)
            return
        if not place.is_file():
            self._send(404, b"", {}, with_body)
            return
        data, said, status = place.read_bytes(), {"Content-Type": "text/csv"}, 200
        if server.with_tags:
            said["ETag"] = f'"{hashlib.md5(data).hexdigest()}"'
        said["Accept-Ranges"] = "bytes" if server.with_ranges else "none"
        asked = re.fullmatch(r"bytes=(\d+)-(\d+)", self.headers.get("Range", ""))
        if asked and server.with_ranges:
            start, end = int(asked[1]), min(int(asked[2]), len(data) - 1)
            said["Content-Range"] = f"bytes {start}-{end}/{len(data)}"
            data, status = data[start : end + 1], 206
        breaks = with_body and server.fails[path] > 0
        if breaks:
            server.fails[path] -= 1
        self._send(status, data, said, with_body, breaks)

    def _send(
        self, status: int, data: bytes, said: dict[str, str], with_body: bool, breaks: bool = False
    ) -> None:
        self.send_response(status)
        for name, value in said.items():
            self.send_header(name, value)
        if self.server.with_sizes:
            self.send_header("Content-Length", str(len(data)))
        else:
            self.send_header("Connection", "close")
            self.close_connection = True
        self.end_headers()
        if with_body:
            sent = data[: len(data) // 2] if breaks else data
            self.wfile.write(sent)
            self.server.sent += len(sent)
            if breaks:
                self.wfile.flush()
                self.connection.close()
                self.close_connection = True

    def log_message(self, format: str, *args: object) -> None:
        """Say nothing."""


@contextmanager
def serving(folder: Path) -> Iterator[Server]:
    """A server of a folder, as long as it is wanted."""
    server = Server(folder)
    thread = threading.Thread(target=server.serve_forever, args=(0.02,), daemon=True)
    thread.start()
    try:
        yield server
    finally:
        server.shutdown()
        server.server_close()
        thread.join()
