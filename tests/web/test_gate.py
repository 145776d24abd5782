"""Bare lines from the network: as many as one likes, and the lesson goes on, and a phone from elsewhere still comes in."""

import contextlib
import socket
import threading
import time
from collections.abc import Iterator

import pytest
from websockets.exceptions import ConnectionClosed

from cartouche.web.guests.gate import FOR_KNOWN, MAX_EACH, MAX_KNOWN, MAX_LINES, Acquainted, Gate
from tests.helpers import FEW, SLOWEST_S, Application, eventually
from tests.lines import SecureLine
from tests.web.test_guests import Door, invite, trusting

TOO_BIG = 1009  # RFC 6455


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    app = Application(tmp_path_factory.mktemp("gate"), more=FEW).start()
    yield app
    app.stop()


@pytest.fixture
def gate() -> Iterator[Gate]:
    made = Gate(socket.AF_INET, socket.SOCK_STREAM)
    made.bind(("127.0.0.1", 0))
    made.listen(256)
    made.setblocking(False)
    yield made
    made.close()


def come(gate: Gate, count: int, who: str) -> list[socket.socket]:
    lines = []
    for _ in range(count):
        line = socket.socket()
        line.bind((who, 0))
        line.connect(gate.getsockname())
        lines.append(line)
    return lines


def let_in(gate: Gate) -> list[socket.socket]:
    found = []
    while True:
        try:
            found.append(gate.accept()[0])
        except BlockingIOError:
            return found


def test_one_address_has_so_many_lines_and_another_still_comes_in(gate: Gate) -> None:
    outside = come(gate, MAX_EACH + 20, "127.0.0.2")
    inside = let_in(gate)
    assert len(inside) == MAX_EACH
    more = come(gate, 1, "127.0.0.3")
    others = let_in(gate)
    assert len(others) == 1
    for line in (*inside, *others):
        line.close()
        line.close()  # counted once
    assert gate.opened() == 0
    for line in (*outside, *more):
        line.close()


def test_in_all_there_are_so_many(gate: Gate) -> None:
    outside, inside = [], []
    for who in range(2, 9):
        outside += come(gate, MAX_EACH, f"127.0.0.{who}")
        inside += let_in(gate)
    assert len(inside) == MAX_LINES - FOR_KNOWN
    for line in (*outside, *inside):
        line.close()
    assert gate.opened() == 0


def test_a_flood_of_bare_lines_stops_neither_the_lesson_nor_a_phone(app: Application) -> None:
    lines: list[socket.socket] = []
    try:
        made = invite(app, address="127.0.0.1")
        port = int(made["address"].rsplit(":", 1)[1])
        over = threading.Event()

        def flood() -> None:
            while not over.is_set():
                line = socket.socket()
                line.bind(("127.0.0.9", 0))
                try:
                    line.connect(("127.0.0.1", port))
                except OSError:
                    line.close()
                    continue
                lines.append(line)
                time.sleep(0.001)

        flooding = threading.Thread(target=flood)
        flooding.start()
        eventually(lambda: len(lines) > 300)
        begun = time.monotonic()
        for _ in range(20):
            app.get("/api/live")
        assert (time.monotonic() - begun) / 20 < 1.0
        assert Door(made["address"]).enter(made["code"])[0] == 201
        over.set()
        flooding.join()
    finally:
        for line in lines:
            line.close()


def test_strangers_leave_room_for_whom_we_know(gate: Gate) -> None:
    gate.known = Acquainted()
    gate.known.add("127.0.0.99")
    outside, inside = [], []
    for who in range(2, 9):
        outside += come(gate, MAX_EACH, f"127.0.0.{who}")
        inside += let_in(gate)
    assert len(inside) == MAX_LINES - FOR_KNOWN
    outside += come(gate, 4, "127.0.0.99")
    known = let_in(gate)
    assert len(known) == 4
    for line in (*outside, *inside, *known):
        line.close()


def test_only_so_many_addresses_are_remembered() -> None:
    known = Acquainted()
    for number in range(MAX_KNOWN + 5):
        known.add(str(number))
    assert "0" not in known
    assert str(MAX_KNOWN + 4) in known


def test_lines_that_ask_for_nothing_are_closed_and_the_one_that_sends_pictures_is_not(app: Application) -> None:
    made = invite(app, address="127.0.0.1")
    port = int(made["address"].rsplit(":", 1)[1])
    door = Door(made["address"])
    token = door.enter(made["code"])[1]["token"]
    unspoken = socket.create_connection(("127.0.0.1", port))  # never speaks TLS
    silent = trusting().wrap_socket(socket.create_connection(("127.0.0.1", port)))
    slow = trusting().wrap_socket(socket.create_connection(("127.0.0.1", port)))
    head = f"POST /api/guest/report HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nAuthorization: Bearer {token}\r\n"
    slow.sendall(f"{head}Content-Type: application/json\r\nContent-Length: 60000\r\n\r\n{{".encode())
    begun_s = time.monotonic()
    for line in (unspoken, silent, slow):
        line.settimeout(30)
        with contextlib.suppress(OSError):
            assert line.recv(1) in (b"", b"H"), "closed, or told that it is late"
        line.close()
    assert time.monotonic() - begun_s < 20.0
    assert door.ask("POST", "/api/guest/leave", token=token)[0] == 204


@pytest.mark.parametrize("path", ["/api/guest/pictures", "/api/guest/sound", "/api/remote/hand"])
def test_a_first_message_is_short_and_a_picture_may_stand_right_behind_the_token(app: Application, path: str) -> None:
    made = invite(app, address="127.0.0.1")
    door = Door(made["address"])
    token = door.enter(made["code"])[1]["token"]
    for first, then, refused in (("x" * 5000, None, True), (token, b"y" * 100_000, False)):
        with SecureLine(door.address + path, trusting()) as line:
            line.send(first)
            with contextlib.suppress(ConnectionClosed):  # a camera's token is no remote's: that may be said before
                if then is not None:
                    line.send(then)
            assert (_end(line) == TOO_BIG) == refused


def _end(line: SecureLine) -> int:
    """The code with which the other side closes."""
    while True:
        try:
            line.recv(SLOWEST_S)
        except ConnectionClosed as closed:
            return closed.rcvd.code if closed.rcvd is not None else 0
