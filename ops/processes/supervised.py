"""Something that is started again when it dies, after a longer pause each time that it does not stay."""

import subprocess
from collections.abc import Callable

LOOK_SECONDS = 0.2
FIRST_PAUSE_SECONDS, LONGEST_PAUSE_SECONDS = 0.5, 60.0
STAYS_SECONDS = 60.0  # alive, after which what went wrong before is forgotten


class Supervised:
    """One part of the application: whether it is alive, and how it is started."""

    def __init__(
        self,
        name: str,
        is_alive: Callable[[], bool],
        start: Callable[[], None],
        first_pause_s: float = FIRST_PAUSE_SECONDS,
    ) -> None:
        self._name, self._is_alive, self._start, self._first_pause_s = name, is_alive, start, first_pause_s
        self._pause_s = first_pause_s
        self._began_s = 0.0  # when it was last started
        self._again_s: float | None = None  # when it is started next

    def look(self, now_s: float) -> None:
        """Start it again where it has died and its pause is over; what does not start is said and tried later."""
        if self._is_alive():
            if now_s - self._began_s > STAYS_SECONDS:
                self._pause_s = self._first_pause_s
            return
        if self._again_s is None:
            self._plan(now_s, "ended unexpectedly")
        elif now_s >= self._again_s:
            self._again_s, self._began_s = None, now_s
            try:
                self._start()
            except (RuntimeError, OSError, subprocess.SubprocessError) as error:
                self._plan(now_s, f"does not start ({error})")

    def _plan(self, now_s: float, what: str) -> None:
        print(f"The {self._name} {what}; it is started again in {self._pause_s:g} s.", flush=True)
        self._again_s = now_s + self._pause_s
        self._pause_s = min(2 * self._pause_s, LONGEST_PAUSE_SECONDS)
