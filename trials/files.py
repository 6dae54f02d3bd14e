"""Damaged files of every kind: each is read, or refused with one of our own errors, within seconds and a bounded memory."""

import random
import resource
import signal
import sys
import time
import traceback
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from types import FrameType

from dynaface.core.errors import DynafaceError
from trials.damage import DAMAGE
from trials.samples import samples
from trials.tally import Tally, finish, options

MAX_SECONDS, HANG = 5.0, 20
MAX_BYTES = 768 << 20  # that a process takes beyond what it began with, which is that of whoever asks
WORKERS = 2
_began = 0


def _begin() -> None:
    global _began
    _began = _peak()


def _peak() -> int:
    """The most bytes that this process has had."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


def _late(number: int, frame: FrameType | None) -> None:
    raise TimeoutError(f"not read within {HANG} s")


def _read(name: str, seed: str) -> tuple[str, str]:
    """(outcome, fault or "") of reading a sample after damage."""
    sample = samples()[name]
    damaged = DAMAGE[sample.kind](sample.data, random.Random(seed))
    signal.signal(signal.SIGALRM, _late)
    signal.alarm(HANG)
    begun = time.perf_counter()
    try:
        sample.read(damaged)
        outcome, fault = "read", ""
    except DynafaceError:
        outcome, fault = "refused", ""
    except Exception as error:
        at = traceback.extract_tb(sys.exc_info()[2])
        own = [f for f in at if "/dynaface/" in f.filename] or list(at)
        place = f"{own[-1].filename.rsplit('/dynaface/', 1)[-1]}:{own[-1].lineno}"
        outcome, fault = "untyped", f"{name}: {type(error).__name__} at {place}: {str(error)[:80]}"
    finally:
        signal.alarm(0)
    took = time.perf_counter() - begun
    if not fault and took > MAX_SECONDS:
        fault = f"{name}: more than {MAX_SECONDS:.0f} s"
    if not fault and _peak() - _began > MAX_BYTES:
        fault = f"{name}: more than {MAX_BYTES >> 20} MiB"
    return outcome, fault


def run(count: int, seed: int) -> Tally:
    """Reads `count` damaged files, each kind in turn."""
    tally, names = Tally(), sorted(samples())
    # The first reading compiles what is compiled, which is no damaged file's fault.
    for sample in samples().values():
        sample.read(sample.data)
    with ProcessPoolExecutor(WORKERS, get_context("fork"), _begin) as pool:
        asked = [(names[n % len(names)], f"{seed}/{n}") for n in range(count)]
        for at in range(0, count, 2000):
            part = asked[at : at + 2000]
            try:
                for outcome, fault in pool.map(_read, *zip(*part, strict=True), chunksize=20):
                    tally.count(outcome)
                    if fault:
                        tally.fault(fault)
            except BrokenProcessPool:
                tally.fault(f"a reader was killed among the files {at} to {at + len(part)}")
                break
    return tally


if __name__ == "__main__":
    asked = options(__doc__ or "", 10000)
    finish(run(asked.count, asked.seed))
