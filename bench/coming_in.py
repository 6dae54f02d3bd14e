"""What large files cost when they come in, and the first evaluation of a fresh process: `python -m bench.coming_in`.

Prints the time of tables at the limit (clean, with a fault in places, with blanks), beside `numpy.loadtxt` of the same numbers in the
same run; of a WAV of a million chunks; of a character's glTF document beside the glTF library's own reader; and of the first evaluation
of a take in a process whose kernels are compiled and which has been warmed, as the server does before it says that it is ready, beside
the second one of another take.
"""

import subprocess
import sys
import time
from collections.abc import Callable

import numpy as np
from pygltflib import GLTF2

from dynaface.assets import ASSETS
from dynaface.core.errors import DynafaceError
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.formats.gltf.document import open_glb
from dynaface.formats.table.cells import read_cells

ROWS, COLUMNS = 150_000, 60
FIRST = """
import time
from dynaface.pipelines.warm_up import warm_up
import bench.coming_in as own
warm_up()
print(own.evaluated(1), own.evaluated(2))
"""


def evaluated(seed: int) -> float:
    """Seconds of a fresh take of ten seconds from recording to tidied channels."""
    from dynaface.core.documents.model.tidy import fresh_tidy
    from dynaface.core.evaluate.cache import Cache
    from dynaface.core.evaluate.node import constant
    from dynaface.core.evaluate.take import even_out, take_graph
    from dynaface.formats.entries.curve_table import read_table

    rng = np.random.default_rng(seed)
    lines = [",".join([f"{i / 60:.5f}", *(f"{v:.4f}" for v in rng.random(3))]) for i in range(600)]
    data = "\n".join(["time,jawOpen,mouthClose,eyeBlinkLeft", *lines]).encode()
    begun = time.perf_counter()
    recording, _report = read_table(data)
    first, *steps = fresh_tidy().stack
    graph = take_graph(even_out(constant("recording", recording), first), 60.0, steps, {})
    graph.tidied.result(Cache(100_000_000))
    return time.perf_counter() - begun


def tables() -> dict[str, bytes]:
    """words -> a table of ROWS rows, about 74 MB."""
    values = np.random.default_rng(1).random((ROWS, COLUMNS))
    lines = [",".join([f"{v:.5f}" for v in row]) for row in values]
    head = ",".join(["time", *(f"c{i}" for i in range(COLUMNS))])

    def made(rows: list[str], timecode: bool = False) -> bytes:
        stamps = (f"10:00:00:{i % 60:02d}" if timecode else f"{i / 60:.5f}" for i in range(len(rows)))
        return "\n".join([head, *(f"{s},{row}" for s, row in zip(stamps, rows, strict=True)), ""]).encode()

    return {
        "clean": made(lines),
        "with timecode": made(lines, True),
        "with one broken row": made([*lines[:5000], lines[5000] + "x", *lines[5001:]]),
        "with a broken row in each thousand": made([r[:-9] if i % 1000 == 0 else r for i, r in enumerate(lines)]),
        "with blank cells in each third row": made([r if i % 3 else "," + r.split(",", 1)[1] for i, r in enumerate(lines)]),
    }  # fmt: skip


def timed(work: Callable[[], object]) -> float:
    """Seconds; a typed refusal counts as an answer."""
    begun = time.perf_counter()
    try:
        work()
    except DynafaceError as error:
        print(f"  refused: {error}")
    return time.perf_counter() - begun


def main() -> None:
    """Prints all of it."""
    known = tables()
    body = known["clean"].decode().splitlines()[1:]
    usual = timed(lambda: np.loadtxt(body, delimiter=",", comments=None))
    for words, data in known.items():
        took = timed(lambda data=data: read_cells(data))  # type: ignore[misc]
        print(
            f"table of {len(data) / 1e6:.0f} MB, {words}: {took:.2f} s; numpy.loadtxt of the numbers {usual / took:.1f} times that"
        )
    short = b"time,jawOpen\n" + b"".join(b"%d,0.5\n" % i for i in range(1_000_000))
    print(f"table of 1,000,000 rows: {timed(lambda: read_cells(short)):.2f} s")
    print(f"table of 2,000,000 rows: {timed(lambda: read_cells(short + short)):.2f} s")
    tone = wav.write(Sound(np.zeros((4800, 1), np.float32), 48000))
    sound = tone[:12] + b"junk\x00\x00\x00\x00" * 1_000_000 + tone[12:]
    print(f"WAV of 1,000,000 chunks: {timed(lambda: wav.read(sound)):.2f} s")
    odile = (ASSETS / "characters/odile.glb").read_bytes()
    ours, theirs = (
        min(timed(lambda read=read: read(odile)) for _ in range(3)) for read in (open_glb, GLTF2.load_from_bytes)
    )  # type: ignore[misc]
    print(f"glTF document of Odile: {ours * 1000:.0f} ms; the library's own reader {theirs / ours:.0f} times that")
    first, second = subprocess.run(
        [sys.executable, "-c", FIRST], capture_output=True, text=True, check=True
    ).stdout.split()
    print(f"first evaluation after a start: {float(first) * 1000:.0f} ms; the second {float(second) * 1000:.0f} ms")


if __name__ == "__main__":
    main()
