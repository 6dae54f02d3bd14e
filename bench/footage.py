"""Speed on footage, beside the obvious library call in the same run: `python -m bench.footage`.

Tracking against the library's own loop over pictures in memory, stretches by two workers against one, seeking in a proxy,
the weight solve of a long take, and one frame's bounded solve against scipy.optimize.lsq_linear.
"""

import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor

import cv2
import numpy as np
from scipy.optimize import lsq_linear

from dynaface.assets import ASSETS
from dynaface.core.numeric.bounded import solve_bounded
from dynaface.core.numeric.sequence import solve_sequence
from dynaface.core.solve.priors import smoothness
from dynaface.core.track.footage import Footage
from dynaface.core.track.landmarks import LandmarkFinder
from dynaface.formats.card_file import read_card
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head, landmark_model
from dynaface.pipelines.solve_footage import find_landmarks, measure_footage

FRAMES, COORDINATES, SHAPES = 18_000, 450, 52


def clip() -> Footage:
    """The demo's webcam clip."""
    return video.read((ASSETS / "demo/mara_clip.mp4").read_bytes())


def seconds(work: Callable[[], object]) -> float:
    """Of one call."""
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def tracking() -> None:
    """Ours from the file, against the library's loop over decoded pictures, in turns."""
    footage = clip()
    pictures = list(footage.pictures())

    def library() -> None:
        with LandmarkFinder(landmark_model(), float(footage.rate)) as finder:
            for picture in pictures:
                finder.find(picture)

    library()
    ours, theirs = [], []
    for _ in range(3):
        theirs.append(len(pictures) / seconds(library))
        ours.append(len(pictures) / seconds(lambda: find_landmarks(footage)))
    print(f"tracking: {np.median(ours):.1f} frames/s from the file, the library alone {np.median(theirs):.1f} on pictures in "
          f"memory: {np.median(ours) / np.median(theirs):.0%}")  # fmt: skip


def one_thread() -> None:
    """A worker keeps to one core."""
    cv2.setNumThreads(1)
    measure((0, 3))  # compile


def measure(span: tuple[int, int]) -> int:
    """Measures a stretch of the clip."""
    footage = clip()
    card = read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head())
    found = [None] * span[0] + find_landmarks(footage, *span)
    return measure_footage(footage, found, card, *span).frames


def sharing() -> None:
    """Tracking and measuring stretches by two workers against one."""
    spans = [(n, n + 39) for n in range(0, 160, 40)]
    rates = []
    for workers in (1, 2):
        with ProcessPoolExecutor(workers, initializer=one_thread) as pool:
            list(pool.map(measure, [(0, 1)] * workers * 2))
            rates.append(160 / seconds(lambda pool=pool: list(pool.map(measure, spans))))  # type: ignore[misc]
    print(
        f"tracking and measuring: {rates[0]:.1f} frames/s by one worker, {rates[1]:.1f} by two: {rates[1] / rates[0]:.2f}x"
    )


def seeking() -> None:
    """One picture of the proxy, wherever it is."""
    proxy = video.read(video.encode(clip().pictures(), clip().rate, quality=23, group=12))
    rng = np.random.default_rng(1)
    taken = [seconds(lambda f=f: next(proxy.pictures(f))) for f in rng.integers(0, proxy.frames, 100)]  # type: ignore[misc]
    print(f"seeking in a proxy of {proxy.width} x {proxy.height}: median {np.median(taken) * 1000:.1f} ms a picture")


def problem(rng: np.random.Generator) -> np.ndarray:
    """(coordinates, shapes) of what shapes do to coordinates: a few collinear, as those of faces are."""
    basis = rng.normal(0, 1, (COORDINATES, SHAPES)) * rng.uniform(0.2, 1, SHAPES)
    basis[:, 1] = 0.9 * basis[:, 0] + 0.3 * basis[:, 1]
    return basis


def smooth_truth(rng: np.random.Generator, frames: int) -> np.ndarray:
    """(frames, shapes) of weights that go from one random expression to the next."""
    knots = np.clip(rng.normal(0.0, 0.5, (frames // 20 + 2, SHAPES)), 0, 1)
    return np.stack([np.interp(np.arange(frames) / 20, np.arange(len(knots)), k) for k in knots.T], axis=1)


def one_frame() -> None:
    """One frame's bounded least squares from its normal equations, against SciPy on the same, in turns."""
    rng = np.random.default_rng(2)
    basis = problem(rng)
    truth = smooth_truth(rng, 200)
    targets = truth @ basis.T + rng.normal(0, 0.2, (200, COORDINATES))
    a, low, high = basis.T @ basis, np.zeros(SHAPES), np.ones(SHAPES)
    some = range(0, 200, 10)

    def ours() -> np.ndarray:
        weights, out = np.full(SHAPES, 0.1), []
        for target in targets:
            weights = solve_bounded(a, target.dot(basis), weights, low, high)
            out.append(weights)
        return np.array(out)

    def theirs() -> None:
        for frame in some:
            lsq_linear(basis, targets[frame], (0, 1), tol=1e-14)

    found = ours()
    taken, library = np.array([(seconds(ours) / 200, seconds(theirs) / len(some)) for _ in range(15)]).T
    exact: list[np.ndarray] = []
    other = seconds(lambda: exact.extend(lsq_linear(basis, targets[i], (0, 1), method="bvls").x for i in some)) / len(
        some
    )
    apart = np.abs(found[list(some)] - exact).max()
    print(f"one frame of {COORDINATES} coordinates: {np.median(taken) * 1e6:.0f} us, lsq_linear {np.median(library) * 1e6:.0f} us: "
          f"{np.median(library / taken):.0f}x (median of 15 turns); its bvls, {other * 1e6:.0f} us, is at most {apart:.1e} away")  # fmt: skip


def long_take() -> None:
    """The weight solve of a long take, smooth in time."""
    rng = np.random.default_rng(3)
    basis = problem(rng)
    truth = smooth_truth(rng, FRAMES)
    targets = (truth @ basis.T + rng.normal(0, 0.2, (FRAMES, COORDINATES))).astype(np.float32)
    stiff = smoothness() / 100

    def ours(sweeps: int, tolerance: float) -> np.ndarray:
        b = (targets @ basis.astype(np.float32)).astype(np.float64)
        a = np.broadcast_to((basis.T @ basis).astype(np.float32), (FRAMES, SHAPES, SHAPES))
        return solve_sequence(a, b, np.zeros((FRAMES, SHAPES)), stiff, sweeps=sweeps, tolerance=tolerance)

    ours(1, 0.0)
    made: list[np.ndarray] = []
    taken = seconds(lambda: made.append(ours(60, 1e-6)))
    exact = ours(2000, 1e-9)
    print(f"weight solve of {FRAMES} frames, {COORDINATES} coordinates to {SHAPES} shapes: {taken:.2f} s, at most "
          f"{np.abs(made[0] - exact).max():.1e} from the optimum; error to truth {np.abs(made[0] - truth).mean():.4f}")  # fmt: skip


def main() -> None:
    """Command line."""
    one_frame()
    long_take()
    seeking()
    tracking()
    sharing()


if __name__ == "__main__":
    main()
