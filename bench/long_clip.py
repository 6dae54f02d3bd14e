"""What a long clip takes of memory: `./dev run .venv/bin/python -m bench.long_clip [--minutes 60] [--looked 1 4]`.

Each figure is the most that a process of its own had in memory (its resident set), and what it had before the work. Looking through
and its proxy are of real clips that lie in the store (the demo's performer, again and again, of two lengths). Solving is of a clip at 60
pictures a second whose landmarks and measures are made up, since to measure an hour takes an hour: the store is filled with them by another process,
and the job runs as it does after a clip was measured. Beside it stands the same with everything in memory, which is what joining all
stretches first would take.
"""

import argparse
import subprocess
import sys
import time
from dataclasses import replace
from fractions import Fraction
from itertools import cycle, islice
from pathlib import Path
from tempfile import TemporaryFile

import numpy as np

from bench.page import bench_work
from dynaface.assets import ASSETS
from dynaface.core.records.records import Job
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.measured import Measured, joined, row_of
from dynaface.core.track.camera import Pose
from dynaface.formats.card_file import read_card
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head
from dynaface.formats.measured_file import read_measured, write_measured
from dynaface.jobs.run_job import run_job
from dynaface.services.footage.measure_footage import METHOD
from dynaface.services.footage.performer_cards import store_card
from dynaface.services.footage.seen_landmarks import COLUMNS, keep_landmarks
from dynaface.services.footage.share_work import Shared
from dynaface.services.jobs.request_jobs import request_solve
from dynaface.services.media.uploaded import note_upload
from dynaface.services.take.import_take import import_take
from dynaface.services.take.take_sources import footage_of
from dynaface.services.work import Work
from dynaface.settings import from_environment
from dynaface.wiring import make_work

RATE, SMALL = 60, (64, 64)  # pictures a second and their size where no picture is looked at


def brought(work: Work, production: str, pictures, rate: int, slate: str, sound=None) -> str:
    """A take of a clip of pictures."""
    with TemporaryFile() as out:
        video.write(out, pictures, Fraction(rate), quality=30, group=60, sound=sound)
        media, size = work.media.put_file(out)
    with work.store.unit() as unit:
        note_upload(unit, work, production, media, size)
    return import_take(work, production, slate, "Mara Quill", [{"media": media, "name": f"{slate}.mp4"}], True).id


def to_look_through(work: Work, production: str, minutes: float) -> str:
    """A take of the demo's performer, again and again."""
    clip = video.read((ASSETS / "demo/mara_clip.mp4").read_bytes())
    small = [p[::2, ::2] for p in clip.pictures()]
    return brought(work, production, islice(cycle(small), round(minutes * 60 * 30)), 30, f"{minutes:g} minutes")


def measured_clip(work: Work, production: str, minutes: float) -> tuple[str, str]:
    """(take, card) of a clip that was looked through and measured, with made-up numbers."""
    frames = round(minutes * 60 * RATE)
    plain = np.zeros((*SMALL, 3), np.uint8)
    take = brought(work, production, (plain for _ in range(frames)), RATE, f"measured {minutes:g}")
    made = read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head())
    card, medium = store_card(work, production, made, {"name": take, "performer": "Mara Quill", "day": "2026-11-02"})
    _, source = footage_of(work, take)
    rng = np.random.default_rng(1)
    rows = rng.uniform(0, 60, (512, COLUMNS)).astype(np.float32)
    keep_landmarks(work, source.id, (rows[: min(512, frames - at)] for at in range(0, frames, 512)))
    shared = Shared(source.id, "measure", f"{medium}:{METHOD}", 0, frames - 1)
    with work.store.unit() as unit:
        for span in shared.spans:
            stretch, _ = work.media.put_bytes(write_measured(_measures(rng, span)))
            unit.stretches.claim(source.id, shared.what, span, "bench", 30)
            unit.stretches.advance(source.id, shared.what, span, "bench", span[1] - span[0] + 1, stretch)
    return take, card.id


def _measures(rng: np.random.Generator, span: tuple[int, int]) -> Measured:
    """Frames that say noisily what slowly moving weights are."""
    count, n = span[1] - span[0] + 1, len(SHAPES)
    truth = 0.3 + 0.3 * np.sin(np.arange(span[0], span[1] + 1)[:, None] * np.linspace(0.02, 0.3, n))
    rows = rng.normal(0, 120, (count, 60, n)).astype(np.float32)
    a = rows.transpose(0, 2, 1) @ rows
    b = np.einsum("fij,fj->fi", a.astype(np.float64), truth) + rng.normal(0, 2e4, (count, n))
    pose = row_of(Pose(np.array([0.0, 0.0, 0.0, 1.0]), np.array([0.0, 0.0, -0.4])))
    return Measured(a, b, truth, np.tile(pose, (count, 1)), np.ones((count, n)))


def memory() -> float:
    """MB that this process had at most so far; that of rusage begins with what the process had that started it."""
    status = Path("/proc/self/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) / 1024


def _ended(work: Work, job: Job) -> None:
    run_job(work, job.id)
    with work.store.unit() as unit:
        found = unit.jobs.get(job.id)
    assert found is not None
    assert found.state == "done", found.message


def looked_through(work: Work, take: str, _card: str) -> None:
    """The job that makes a clip ready."""
    from dynaface.services.jobs.request_jobs import request_preparation

    _ended(work, request_preparation(work, take))


def solved(work: Work, take: str, card: str) -> None:
    """The job that solves it."""
    _ended(work, request_solve(work, take, card, None, None))


def all_at_once(work: Work, take: str, card: str) -> None:
    """What its measures take where all stretches are joined before they are solved."""
    from dynaface.services.footage.performer_cards import medium_of_card

    _, source = footage_of(work, take)
    what = f"measure:{medium_of_card(work, card)[1]}:{METHOD}"
    with work.store.unit() as unit:
        made = unit.stretches.state(source.id, what)
    joined([read_measured(work.media.get(media)) for _, (_, media) in sorted(made.items())])


WORK = {"look through": looked_through, "solve": solved, "all at once": all_at_once}


def alone(what: str, person: str, take: str, card: str = "") -> tuple[float, float, float]:
    """(MB before, MB at most, seconds) of a piece of work in a process of its own."""
    done = subprocess.run([sys.executable, "-m", "bench.long_clip", "--one", what, person, take, card],
                          stdout=subprocess.PIPE, text=True, check=True)  # fmt: skip
    before, most, seconds = map(float, done.stdout.split()[-3:])
    return before, most, seconds


def main() -> None:
    """Command line."""
    parser = argparse.ArgumentParser(prog="bench.long_clip")
    parser.add_argument("--minutes", type=float, nargs="+", default=[10.0, 60.0], help="of the clips that are solved")
    parser.add_argument("--looked", type=float, nargs="+", default=[1.0, 4.0], help="minutes of those looked through")
    parser.add_argument("--one", nargs=4, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.one:
        what, person, take, card = options.one
        work = replace(make_work(from_environment()).by(person), defer=lambda job: None)
        before, began = memory(), time.perf_counter()
        WORK[what](work, take, card)
        print(before, memory(), time.perf_counter() - began)
        return
    work, production = bench_work()
    for minutes in options.looked:
        take = to_look_through(work, production, minutes)
        before, most, seconds = alone("look through", work.person, take)
        print(
            f"look through {minutes:g} min at 30: at most {most:.0f} MB ({before:.0f} before), {seconds:.0f} s",
            flush=True,
        )
    for minutes in options.minutes:
        take, card = measured_clip(work, production, minutes)
        for what in ("solve", "all at once"):
            before, most, seconds = alone(what, work.person, take, card)
            print(
                f"{what} {minutes:g} min at {RATE}: at most {most:.0f} MB ({before:.0f} before), {seconds:.0f} s",
                flush=True,
            )


if __name__ == "__main__":
    main()
