"""Processes that are kept up: one that ends is started again, after a pause that grows, and what happened is said."""

import ctypes
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

PAUSES = (0.2, 0.5, 1.0, 2.0, 4.0)  # seconds before a part is started again
STEADY = 5.0  # seconds after which a part that ends is thought to have been well
_DIES_WITH_PARENT = 1  # PR_SET_PDEATHSIG of prctl(2)


def say(words: str) -> None:
    """A line for who started us."""
    sys.stderr.write(f"dynaface: {words}\n")
    sys.stderr.flush()


def _with_parent(number: int) -> Callable[[], None]:
    """Run in the new process: it gets this signal when we are gone, however we went."""
    libc = ctypes.CDLL(None, use_errno=True)

    def tie() -> None:
        libc.prctl(_DIES_WITH_PARENT, number, 0, 0, 0)

    return tie


@dataclass
class Part:
    """name: in words; command; environment; identity: whose process it is; stop: the signal that ends it well; patience: seconds
    until one that was told to stop is killed; before: run before each start.
    """

    name: str
    command: Sequence[str]
    environment: Mapping[str, str] | None = None
    identity: Mapping[str, Any] = field(default_factory=dict)
    stop: signal.Signals = signal.SIGTERM
    patience: float = 8.0
    before: Callable[[], None] | None = None
    output: str | None = None
    process: "subprocess.Popen[bytes] | None" = None
    begun: float = 0.0
    failed: int = 0
    due: float | None = None

    def start(self) -> None:
        """Starts it in a session of its own, so that Ctrl+C reaches us alone."""
        if self.before is not None:
            self.before()
        out = open(self.output, "ab") if self.output else None  # noqa: SIM115
        try:
            self.process = subprocess.Popen(
                list(self.command), env=self.environment, start_new_session=True, stdout=out, stderr=out,
                preexec_fn=_with_parent(self.stop), **self.identity,
            )  # fmt: skip
        finally:
            if out is not None:
                out.close()
        self.begun, self.due = time.monotonic(), None

    @property
    def up(self) -> bool:
        """Whether the process is there."""
        return self.process is not None and self.process.poll() is None

    def watch(self) -> None:
        """Starts it again where it has ended, once its pause is over."""
        if self.up:
            return
        now = time.monotonic()
        if self.due is None:
            self.failed = 0 if now - self.begun > STEADY else self.failed + 1
            pause = PAUSES[min(self.failed, len(PAUSES) - 1)]
            self.due = now + pause
            say(f"{self.name} {self.how_it_ended()}; it is started again in {pause:g} s")
        elif now >= self.due:
            self.start()

    def how_it_ended(self) -> str:
        """In words."""
        code = self.process.returncode if self.process is not None else None
        if code is not None and code < 0:
            return f"was ended by {signal.Signals(-code).name}"
        return f"ended with status {code}"

    def end(self) -> None:
        """Ends it well, or at last by force."""
        if self.process is None or not self.up:
            return
        self.process.send_signal(self.stop)
        try:
            self.process.wait(self.patience)
        except subprocess.TimeoutExpired:
            say(f"{self.name} does not stop; it is killed")
            self.process.kill()
            self.process.wait()
