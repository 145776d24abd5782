"""A lesson in a network of its own that has nothing but loopback. Started by test_alone; prints what it saw as JSON."""

import fcntl
import json
import socket
import struct
import sys
from pathlib import Path

from tests.helpers import Application, eventually

CANNOT = 77
SET_FLAGS, UP = 0x8914, 1  # SIOCSIFFLAGS, IFF_UP: netdevice(7)


def loopback_up() -> None:
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as any_socket:
        fcntl.ioctl(any_socket, SET_FLAGS, struct.pack("16sh14x", b"lo", UP))


def main(folder: Path) -> None:
    try:
        loopback_up()
    except PermissionError:  # a network of one's own, and nothing may be done in it
        sys.exit(CANNOT)
    devices = [name for _, name in socket.if_nameindex()]
    app = Application(folder).start()
    try:
        app.ask("PUT", "/api/teach/plate", {"plate_id": "page-and-face"})
        seen = {surface: app.picture(surface).std() > 10 for surface in ("outgoing", "page:desk-camera", "raw:face-camera")}
        app.ask("POST", "/api/teach/call/start")
        seen["audience"] = app.picture(f"audience:{app.get('/api/live')['audiences'][0]['id']}").std() > 10
        app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
        app.ask("POST", "/api/teach/actions", {"action": "sheet"})
        app.ask("POST", "/api/teach/actions", {"action": "record"})
        eventually(lambda: app.get("/api/teach/tools")["recording"]["bytes"] > 10_000)
        app.ask("POST", "/api/teach/actions", {"action": "stop"})
        kept = eventually(lambda: [one for one in app.get("/api/after")["lessons"] if one["sheets"] and one["recordings"]])
        print(json.dumps({"devices": devices, "seen": {name: bool(good) for name, good in seen.items()}, "kept": len(kept)}))
    finally:
        app.stop()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
