"""What can go wrong before anything runs."""

from cartouche.core.errors import CartoucheError


class PortTaken(CartoucheError, OSError):
    sentence = "Port {port} is taken: Cartouche may be running already at http://127.0.0.1:{port}, or start it with --port {other}."

    def __init__(self, port: int) -> None:
        self.port, self.other = port, port + 1
        super().__init__(port)


class PortUnusable(CartoucheError, OSError):
    sentence = "Port {port} cannot be used ({why}). Start Cartouche with another, for example --port 8427."

    def __init__(self, port: int, why: str) -> None:
        self.port, self.why = port, why
        super().__init__(port, why)


class SchoolMissing(CartoucheError, ModuleNotFoundError):
    sentence = "What a school's server needs is not installed here: pip install 'cartouche[school]'."


class PagesNotBuilt(CartoucheError, FileNotFoundError):
    sentence = "The pages are not built yet. Start Cartouche with ./run demo, which builds them."


class HalfACertificate(CartoucheError, ValueError):
    sentence = "A certificate needs its key and a key its certificate: give both --certificate and --key, or neither."


class CardNotWritten(CartoucheError, OSError):
    sentence = "The set-up card could not be written to {path} ({why}). Name another place with --out."

    def __init__(self, path: str, why: str) -> None:
        self.path, self.why = path, why
        super().__init__(path, why)
