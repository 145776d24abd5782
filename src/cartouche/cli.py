"""The command line: serve the application, or write its OpenAPI document."""

import argparse
import errno
import json
import os
import socket
import sys
import threading
from pathlib import Path

import platformdirs

from cartouche.core.errors import CartoucheError
from cartouche.errors import CardNotWritten, HalfACertificate, PortTaken, PortUnusable
from cartouche.ports import for_lines

PORT = 8427
ADDRESS = "127.0.0.1"


def main(arguments: list[str] | None = None) -> int:
    options = _parser().parse_args(arguments)
    try:
        if options.command == "openapi":
            return _openapi(guests=options.guests)
        if options.command == "kit-schema":
            return _kit_schema()
        if options.command == "plates-schema":
            return _plates_schema()
        if options.command == "steps-schema":
            return _steps_schema()
        if options.command == "draw":
            from cartouche.live.files.apart import serve

            serve(sys.stdin.buffer, sys.stdout.buffer)
            return 0
        if options.command == "card":
            return _card(options)
        if options.command == "doctor":
            return _doctor(options)
        if options.command == "hub":
            return _hub(options)
        return _serve(options)
    except CartoucheError as exc:
        print(exc, file=sys.stderr)
        return 1


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="cartouche", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    for name, what in (("demo", "start with the demo lesson"), ("serve", "start with what is kept")):
        command = commands.add_parser(name, help=what)
        command.add_argument("--port", type=int, default=PORT)
        command.add_argument("--data", default=str(usual_folder(name)), help="the data folder (%(default)s)")
        command.add_argument("--warm-up", type=float, default=60.0, help="seconds that a simulated device's long warm-up takes")
        command.add_argument("--fps", type=_fps, default=30.0, help="most pictures a second that go out; fewer where this computer is slow")
        command.add_argument("--full", action="store_true", help="do nothing with less where this computer cannot keep up")
        command.add_argument("--guest-port", type=int, help="where phones and tablets come in (the port after the other)")
        command.add_argument("--certificate", help="the school's own certificate for phones, PEM with its chain")
        command.add_argument("--key", help="the key of that certificate, PEM")
    hub = commands.add_parser("hub", help="one teacher's process on a school's server: JupyterHub starts it")
    hub.add_argument("--data", required=True, help="the teacher's data folder")
    hub.add_argument("--fps", type=_fps, default=30.0, help="most pictures a second that go out")
    hub.add_argument("--line", type=int, help=argparse.SUPPRESS)  # the listening socket, handed on by who keeps this process running
    hub.add_argument("--keeper", type=int, help=argparse.SUPPRESS)  # a pipe that closes when that one ends
    doctor = commands.add_parser("doctor", help="say what this computer can do, and mend what can be mended")
    doctor.add_argument("--port", type=int, default=PORT)
    doctor.add_argument("--data", default=str(usual_folder("serve")), help="the data folder (%(default)s)")
    commands.add_parser("draw", help=argparse.SUPPRESS)  # the process that foreign files are drawn in
    document = commands.add_parser("openapi", help="print the OpenAPI document")
    document.add_argument("--guests", action="store_true", help="the one of the guests' page")
    commands.add_parser("kit-schema", help="print the schema of kit files")
    commands.add_parser("plates-schema", help="print the schema of plates files")
    commands.add_parser("steps-schema", help="print the schema of steps files")
    card = commands.add_parser("card", help="write the set-up card as a PDF, to print at 100 %%")
    card.add_argument("--paper", choices=("A4", "Letter"), default="A4")
    card.add_argument("--out", default="set-up-card.pdf", help="where to write it")
    return parser


def usual_folder(command: str) -> Path:
    """Where this system keeps a program's data; the demo lesson has a folder of its own there."""
    folder = platformdirs.user_data_path("Cartouche", appauthor=False)
    return folder / "demo" if command == "demo" else folder


def _doctor(options: argparse.Namespace) -> int:
    from cartouche.doctor import examine

    lines = examine(Path(options.data), options.port)
    for line in lines:
        print(line)
    return 1 if any(line.good is False for line in lines) else 0


def _fps(text: str) -> float:
    try:
        fps = float(text)
    except ValueError:
        fps = 0.0
    if not 5 <= fps <= 60:
        raise argparse.ArgumentTypeError(f"{text} is no number of pictures from 5 to 60")
    return fps


def _openapi(*, guests: bool) -> int:
    from cartouche.web.app import STATIC, create_app
    from cartouche.web.guests.app import create_guest_app

    app = create_guest_app(None, STATIC, ()) if guests else create_app(None)
    print(json.dumps(app.openapi(), indent=2))
    return 0


def _card(options: argparse.Namespace) -> int:
    from cartouche.printed import card_pdf

    try:
        Path(options.out).write_bytes(card_pdf(options.paper))
    except OSError as exc:
        raise CardNotWritten(options.out, exc.strerror or "unknown") from exc
    print(f"The set-up card for {options.paper} is in {options.out}. Print it at 100 %.")
    return 0


def _kit_schema() -> int:
    from cartouche.web.kit_file import schema

    print(json.dumps(schema(), indent=2))
    return 0


def _plates_schema() -> int:
    from cartouche.web.plates_file import schema

    print(json.dumps(schema(), indent=2))
    return 0


def _steps_schema() -> int:
    from cartouche.web.steps_file import schema

    print(json.dumps(schema(), indent=2))
    return 0


def _own_certificate(options: argparse.Namespace) -> tuple[Path, Path] | None:
    """Raises HalfACertificate."""
    if bool(options.certificate) != bool(options.key):
        raise HalfACertificate
    return (Path(options.certificate), Path(options.key)) if options.certificate else None


def _serve(options: argparse.Namespace) -> int:
    port, folder, demo, own = options.port, Path(options.data), options.command == "demo", _own_certificate(options)
    with listen(port) as listening:
        from cartouche.bench.devices import warm_up
        from cartouche.bench.keep import keep_in
        from cartouche.process import pass_over_before_a_lesson, settle

        settle()
        keep_in(folder / "bench")
        if demo:  # while the rest is still being loaded
            threading.Thread(
                target=warm_up, name="drawing"
            ).start()  # an end waits for it: cut off inside a drawing call the process would abort

        from cartouche.prepared import prepared
        from cartouche.web.app import DoorSettings
        from cartouche.web.guests.certificate import tls_context
        from cartouche.web.server import server

        state = prepared(folder, demo=demo, fps=options.fps, warm_up_s=options.warm_up, full=options.full)
        if own is not None:
            tls_context(folder, (), own)  # what is wrong with it is told now, not when the first phone comes
        door = DoorSettings((port + 1 if port else 0) if options.guest_port is None else options.guest_port, own)
        serving = server(state, door)
        pass_over_before_a_lesson(lambda: state.running.going_out)
        print(f"Cartouche is ready: open http://{ADDRESS}:{port}", flush=True)
        serving.run(sockets=[listening])
    return 0


def _hub(options: argparse.Namespace) -> int:
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # no thread may run where it forks
    from cartouche.school.keep import handed_on, keep

    return keep(options) if options.line is None else handed_on(options)


def listen(port: int) -> socket.socket:
    """The listening socket, before anything slow is loaded: a taken port is told at once. 0 takes any free one.

    Raises PortTaken, PortUnusable.
    """
    listening = for_lines(socket.socket)
    try:
        listening.bind((ADDRESS, port))
        listening.listen(128)
    except (OSError, OverflowError) as exc:
        listening.close()
        if isinstance(exc, OSError) and exc.errno == errno.EADDRINUSE:
            raise PortTaken(port) from exc
        raise PortUnusable(port, getattr(exc, "strerror", None) or "it must lie between 1 and 65535") from exc
    return listening


if __name__ == "__main__":
    sys.exit(main())
