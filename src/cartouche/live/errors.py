"""Expected failures of running pictures."""

from cartouche.core.errors import CartoucheError


class FeedError(CartoucheError):
    sentence = "The picture of {feed_id} cannot be used just now."

    def __init__(self, feed_id: str) -> None:
        self.feed_id = feed_id
        super().__init__(feed_id)


class UndecodablePicture(FeedError, ValueError):
    sentence = "What this camera sends cannot be decoded ({why}). Remove the camera in Kit and add it again."

    def __init__(self, feed_id: str, why: str) -> None:
        self.why = why
        super().__init__(feed_id)


class NoPictureYet(FeedError, LookupError):
    sentence = "This camera has given no picture yet. Wait until it moves on the Kit screen, then try again."


class NoPageFound(FeedError, LookupError):
    sentence = "No page was found: {why}. Lay the whole sheet in view, or set the corners by hand."

    def __init__(self, feed_id: str, why: str) -> None:
        self.why = why
        super().__init__(feed_id)


class NoCardFound(FeedError, LookupError):
    sentence = "The set-up card was not read: {why}."

    def __init__(self, feed_id: str, why: str) -> None:
        self.why = why
        super().__init__(feed_id)


class DistortionUnknown(FeedError, LookupError):
    sentence = "The lens could not be measured: too few long straight lines in view. Lay a whole sheet under it, or use the set-up card."


class NothingKept(FeedError, LookupError):
    sentence = "Nothing is kept of an earlier day for this camera in this rig. What you set today will be there next time."


class NoLessonOpen(CartoucheError, LookupError):
    sentence = "No lesson is open. Open one on the Lessons page."


class UnusableOffer(FeedError, ValueError):
    sentence = "This phone’s connection could not be understood ({why}). Reload the page on the phone."

    def __init__(self, feed_id: str, why: str) -> None:
        self.why = why
        super().__init__(feed_id)


class StillTesting(CartoucheError, ValueError):
    sentence = "This test is still running. Wait until it is over."
