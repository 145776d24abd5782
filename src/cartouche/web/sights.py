"""What cameras saw that are offered in the first minute: kept for seconds, never stored."""

import threading

from cartouche.core.kit.propose import Proposal, Seen, Sight, propose

FRESH_S = 8.0  # a camera that has sent nothing for so long is not there any more


class Sights:
    """What each camera that is offered saw last; nothing of it is stored."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._by_camera: dict[tuple[str, int], tuple[float, Sight]] = {}

    def saw(self, tab: str, camera: int, sight: Sight, now_s: float) -> Proposal:
        """The proposal over all cameras of this tab."""
        with self._lock:
            fresh = {key: kept for key, kept in self._by_camera.items() if now_s - kept[0] < FRESH_S}
            self._by_camera = {**fresh, (tab, camera): (now_s, sight)}
            known = self._by_camera
        return propose([Seen(str(number), sight) for (whose, number), (_, sight) in sorted(known.items()) if whose == tab])
