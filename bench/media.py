"""A kilobyte of a large clip over HTTP, against reading the whole: `./dev run .venv/bin/python -m bench.media`.

Prints the time of a ranged request of a medium of 300 MB as the page asks for it, how much of it is held in memory at once, and
the same for the whole file read at one time, in the same run.
"""

import tempfile
import time
import tracemalloc
from collections.abc import Callable

import numpy as np
from flask import Flask

from dynaface.store.media import Media
from dynaface.web.answers import as_medium

SIZE, WANTED = 300_000_000, 1000


def measured(work: Callable[[], object], rounds: int = 5) -> tuple[float, float]:
    """(median ms, MB of memory at the most)."""
    work()
    taken = []
    for _ in range(rounds):
        began = time.perf_counter()
        work()
        taken.append((time.perf_counter() - began) * 1000)
    tracemalloc.start()
    work()
    peak = tracemalloc.get_traced_memory()[1] / 1e6
    tracemalloc.stop()
    return float(np.median(taken)), peak


def main() -> None:
    """Prints both."""
    with tempfile.TemporaryDirectory() as folder:
        store, app = Media(folder), Flask(__name__)
        piece = np.random.default_rng(3).integers(0, 256, 1_000_000, np.uint8).tobytes()
        media, _ = store.put((piece for _ in range(SIZE // len(piece))), SIZE)
        app.add_url_rule("/clip", view_func=lambda: as_medium(store.open(media), "video/mp4"))
        client = app.test_client()
        wanted = {"Range": f"bytes=150000000-{150_000_000 + WANTED - 1}"}
        ranged = measured(lambda: client.get("/clip", headers=wanted).data)
        whole = measured(lambda: store.get(media)[150_000_000 : 150_000_000 + WANTED], rounds=3)
        print(f"{WANTED} bytes of {SIZE / 1e6:.0f} MB over HTTP: {ranged[0]:.1f} ms, {ranged[1]:.2f} MB at the most")
        print(
            f"the same by reading all of it: {whole[0]:.0f} ms, {whole[1]:.0f} MB; {whole[0] / ranged[0]:.0f} times as long"
        )


if __name__ == "__main__":
    main()
