"""How well recordings of one moment are lined up: `python -m bench.line_up`.

Made moments with a truth that no estimate sees: two recorders of one room that run apart, a suit and a camera that see one head, two
cameras that see one face, a clap that is heard and seen, lips and a voice. A case is right when the offset is within half a frame at
60 fps; the share is of those that the estimate itself calls confident. Lips say less than that: their share within a frame at 30 fps is
printed too.
"""

from collections.abc import Callable
from fractions import Fraction

import numpy as np

from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound
from dynaface.core.sync.claps import by_claps, claps_of_body, claps_of_sound
from dynaface.core.sync.curves import by_lids_and_jaw
from dynaface.core.sync.fit import Fit
from dynaface.core.sync.lips_to_sound import by_lips
from dynaface.core.sync.motion import by_head_motion
from dynaface.core.sync.sounds import by_sound
from dynaface.sims.actor import act
from dynaface.sims.body_suit import move
from dynaface.sims.moment import clapped, clapping, heard, seen_by_camera, spoken_lines

HALF_FRAME = 0.5 / 60
CASES = 96
MORE = {"lips against sound": 384}  # whose share lies near what is wanted: 96 cases leave it open by 5 %
MIDNIGHT = Timecode(0, Fraction(60))
Case = Callable[[np.random.Generator], tuple[Fit, float, float]]
"""A case of chance: (fit, true offset in seconds, true drift)."""


def sounds(rng: np.random.Generator) -> tuple[Fit, float, float]:
    """Two recorders in one room, up to 200 ppm apart, of which one begins up to 15 s later."""
    room, _ = spoken_lines(75, rng)
    drift, later = rng.uniform(-200, 200), rng.uniform(-15, 15)
    begins = max(0.0, -later) + rng.uniform(0, 3)
    one = heard(room, begins, rng.uniform(25, 40), 48_000, 0.0, rng.uniform(0, 0.01), rng)
    other = heard(room, begins + later, rng.uniform(25, 40), 44_100, drift, rng.uniform(0, 0.01), rng)
    return by_sound(one, other), later, drift


def motion(rng: np.random.Generator) -> tuple[Fit, float, float]:
    """A suit that records longer than a camera."""
    body = move(30, MIDNIGHT, int(rng.integers(1 << 30)))
    first = rng.uniform(0, 18)
    rate = [Fraction(60), Fraction(30), Fraction(60_000, 1001)][int(rng.integers(3))]
    face = seen_by_camera(body, first, rng.uniform(7, 12), rate, rng.uniform(0.1, 0.5), rng)
    return by_head_motion(face, body), -first, 0.0


def cropped(truth: Channels, first: float, seconds: float, rate: Fraction, rng: np.random.Generator) -> Channels:
    """What one camera writes of a face: a strength of its own, noise, shapes that run into each other."""
    times = first + np.arange(int(seconds * float(rate))) / float(rate)
    own = np.arange(truth.frames) / float(truth.rate)
    values = np.stack([np.interp(times, own, c) for c in truth.values.T], axis=1)
    values = values * rng.uniform(0.7, 1.25, values.shape[1]) + 0.05 * values.mean(axis=1, keepdims=True)
    values += rng.normal(0, rng.uniform(0.005, 0.025), values.shape)
    return Channels(truth.names, values.astype(np.float32), rate)


def curves(rng: np.random.Generator) -> tuple[Fit, float, float]:
    """Two cameras on one face."""
    _, phones = spoken_lines(26, rng)
    truth = act(phones, 26, int(rng.integers(1 << 30)))
    first = rng.uniform(0, 12)
    one = cropped(truth, 0, 22, Fraction(60), rng)
    rate = [Fraction(30), Fraction(48), Fraction(60_000, 1001)][int(rng.integers(3))]
    return by_lids_and_jaw(one, cropped(truth, first, rng.uniform(6, 12), rate, rng)), first, 0.0


def clap(rng: np.random.Generator) -> tuple[Fit, float, float]:
    """A clap or two at the beginning, heard over talk and seen by a suit."""
    room, _ = spoken_lines(24, rng)
    moments = np.sort(rng.uniform(4, 9, int(rng.integers(1, 3))))
    moments = moments[np.concatenate([[True], np.diff(moments) > 2.5])]
    begins = rng.uniform(0, 3)
    body = clapping(move(24, MIDNIGHT, int(rng.integers(1 << 30))), moments.tolist())
    sound = heard(clapped(room, moments.tolist(), rng), begins, 18, 48_000, 0.0, rng.uniform(0, 0.01), rng)
    return by_what_claps(body, sound), begins, 0.0


def by_what_claps(body: Motion, sound: Sound) -> Fit:
    """The fit, one that is sure of nothing where one of them has no clap."""
    try:
        return by_claps(claps_of_body(body), claps_of_sound(sound))
    except InputError:
        return Fit(0.0, 0.0, np.zeros(0), np.zeros(0))


def no_clap(rng: np.random.Generator) -> tuple[Fit, float, float]:
    """Talk, and hands that move with it: nothing that could be lined up."""
    room, _ = spoken_lines(24, rng)
    body = move(24, MIDNIGHT, int(rng.integers(1 << 30)))
    heard_here = heard(room, 1.0, 18, 48_000, 0.0, rng.uniform(0, 0.01), rng)
    return by_what_claps(body, heard_here), float("nan"), 0.0


def lips(rng: np.random.Generator) -> tuple[Fit, float, float]:
    """A face, and a recorder that ran before and after."""
    room, phones = spoken_lines(24, rng)
    truth = act(phones, 24, int(rng.integers(1 << 30)))
    first = rng.uniform(0, 8)
    face = cropped(truth, first, rng.uniform(9, 14), Fraction(60), rng)
    return by_lips(face, heard(room, 0.0, 24, 48_000, 0.0, rng.uniform(0, 0.01), rng)), -first, 0.0


KINDS: dict[str, Case] = {"sound against sound": sounds, "head motion of face and body": motion, "lids and jaw of two faces": curves,
                          "a clap heard and seen": clap, "lips against sound": lips, "talk without a clap": no_clap}  # fmt: skip


def main() -> None:
    """Prints a line a kind."""
    for number, (name, case) in enumerate(KINDS.items()):
        rows = []
        cases = MORE.get(name, CASES)
        for n in range(cases):
            fit, true, drift = case(np.random.default_rng([7100 + number, n]))
            rows.append((fit.offset - true, fit.confident, fit.drift - drift))
        wrong, sure = np.array([r[0] for r in rows]), np.array([r[1] for r in rows])
        apart = np.abs([r[2] for r in rows])[sure]
        right, wide = (
            (np.abs(wrong[sure]) <= limit).mean() if sure.any() else float("nan") for limit in (HALF_FRAME, 1 / 30)
        )
        said = f"; drift within {np.percentile(apart, 95):.1f} ppm for 95%" if apart.max(initial=0) > 0 else ""
        if np.isnan(wrong).all():
            print(f"{name}: {sure.sum()} of {cases} confident (wanted 0)")
            continue
        print(f"{name}: {sure.sum()} of {cases} confident, {right:.0%} of them within half a frame at 60 fps (wanted 95%), {wide:.0%} within a frame at 30 fps, "
              f"median error {np.median(np.abs(wrong[sure])) * 1000:.2f} ms, of all cases {np.median(np.abs(wrong)) * 1000:.2f} ms{said}")  # fmt: skip


if __name__ == "__main__":
    main()
