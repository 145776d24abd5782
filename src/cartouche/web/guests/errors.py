"""What can go wrong at the guests' door."""

from cartouche.core.errors import CartoucheError
from cartouche.core.guests.invitation import Reason


class GuestError(CartoucheError):
    sentence = "The phone could not be let in."


class NotLetIn(GuestError, PermissionError):
    sentence = "This code does not let anybody in."


class WrongCode(NotLetIn):
    sentence = "This code is not right. Look at it again on the teacher’s screen."


class ExpiredCode(NotLetIn):
    sentence = "This code has run out. Ask the teacher for a new one; a code holds for ten minutes."


class UsedCode(NotLetIn):
    sentence = "This code has been used already. Ask the teacher for a new one; each code lets one device in."


class TooManyCodes(NotLetIn):
    sentence = "Too many wrong codes. Wait a minute, then type the code from the teacher’s screen."


BY_REASON: dict[Reason, type[NotLetIn]] = {"wrong": WrongCode, "expired": ExpiredCode, "used": UsedCode, "wait": TooManyCodes}


class NotAGuest(GuestError, PermissionError):
    sentence = "This phone is not known here any more. Ask the teacher for a new code."


class NotNow(GuestError):
    sentence = "Another lesson is open on the teacher’s computer just now. This phone comes back by itself when its own lesson does."


class NoNetwork(GuestError, OSError):
    sentence = "This computer is in no network that a phone could reach it by. Join the Wi-Fi that the phone is in, then invite it again."


class DoorBlocked(GuestError, OSError):
    sentence = "{address} could not be opened for phones ({why}). Choose another network, or start Cartouche with another --guest-port."

    def __init__(self, address: str, why: str) -> None:
        self.address, self.why = address, why
        super().__init__(address, why)


class CertificateUnusable(GuestError, OSError):
    sentence = (
        "The school’s certificate {path} cannot be used: {why}. Start Cartouche with the right --certificate and --key, or without them."
    )

    def __init__(self, path: str, why: str) -> None:
        self.path, self.why = path, why
        super().__init__(path, why)


class NotAWatcher(GuestError, PermissionError):
    sentence = "This screen is not invited any more. Ask the teacher for a new code."


class CannotWatch(GuestError, ValueError):
    sentence = "This browser cannot be given the lesson’s picture ({why}). Open the same address in another browser."

    def __init__(self, why: str) -> None:
        self.why = why
        super().__init__(why)


class TooManyWatchers(GuestError):
    sentence = "Too many screens watch already. Ask the teacher to end one of them."


class NotARemote(GuestError, PermissionError):
    sentence = "This phone is no remote here, or not any more. Ask the teacher for a code."
