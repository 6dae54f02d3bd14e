"""How well colour dots on a head mount are followed and solved: `python -m bench.dots [first seed] [performers]`.

Performers, cameras and light are not those that anything was set on; truth is read only after the solve.
"""

import sys
import time
from dataclasses import replace
from fractions import Fraction
from itertools import count

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.dots.dot import Dot, DotLayout, pick_dot
from dynaface.core.dots.track import follow_dots
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.services.solve_dots import solve_clip
from dynaface.sims.footage.dots import PLACES, colours, film, head_mount
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import expressive, range_of_motion

FIRST, PERFORMERS, FRAMES, RATE, PEAK = 601, 3, 240, Fraction(30), 0.25


def main() -> None:
    """Prints everything."""
    first, many = (int(a) for a in (*sys.argv[1:3], *(str(FIRST), str(PERFORMERS))[len(sys.argv[1:3]) :]))
    scores: list[tuple[str, str, float, float]] = []
    errors, plain, lost, times, unseen = [], [], [], [], []
    for seed in range(first, first + many):
        performer, setting = make_performer(general_head(), seed), head_mount(seed)
        rom, named = range_of_motion(seed)
        acted = expressive(FRAMES / 30 + 0.1, seed * 10)
        truth = Channels(acted.names, acted.values[:FRAMES], acted.rate)
        clips, centres = {}, {}
        for number, (part, what) in enumerate((("rom", rom), ("line", truth))):
            made = film(performer, landmark_places(), what, setting, seed + number, colours())
            clips[part] = video.read(video.encode(made.pictures, RATE))
            centres[part] = np.array(made.centres) - 0.5  # pixels are counted from their middles
        layout = picked(next(clips["rom"].pictures()), centres["rom"][0], setting.fov)
        layout = replace(layout, neutral=tuple(named["neutral"]), samples=named["samples"])  # type: ignore[arg-type]
        pictures = list(clips["line"].pictures())
        began = time.perf_counter()
        track = follow_dots(iter(pictures), layout)
        followed = time.perf_counter() - began
        began = time.perf_counter()
        sum(1 for _ in clips["line"].pictures())
        times.append((followed, time.perf_counter() - began))
        solved, _, head = solve_clip(clips["line"], layout, clips["rom"])
        index = [PLACES.index(d.place) for d in layout.dots]
        off = track.points - centres["line"][:, index]
        plain.append(off)
        errors.append(off - np.nanmean(off, axis=0))
        lost.append(float(np.isnan(off[..., 0]).mean()))
        seen = head.basis.seen()
        unseen.append([s for s in SHAPES if seen[s] == "not seen"])
        for i, shape in enumerate(SHAPES):
            x, t = solved.channels.values[:, i].astype(float), truth.values[:, i].astype(float)
            if seen[shape] == "not seen" or t.max() < PEAK or shape.startswith("eyeLook"):
                continue
            fitted = np.polyval(np.polyfit(x, t, 1), x) if x.std() > 1e-6 else np.full(len(t), t.mean())
            scores.append(
                (
                    shape,
                    seen[shape],
                    float(np.corrcoef(x, t)[0, 1]) if x.std() > 1e-6 else 0.0,
                    float(np.abs(fitted - t).mean()),
                )
            )
    rms = [float(np.sqrt(np.nanmean((np.concatenate(e) ** 2).sum(axis=-1)))) for e in (errors, plain)]
    print(f"centres: RMS {rms[0]:.2f} px after each dot's own constant, {rms[1]:.2f} px with it (light and the skin's bend shift what is "
          f"seen of a dot), lost {np.mean(lost):.1%}")  # fmt: skip
    print(
        f"following {len(PLACES)} dots takes {sum(a for a, _ in times) / sum(b for _, b in times):.2f} of the time that decoding takes"
    )
    for name, words in (("sees well", ("well",)), ("sees at all", ("well", "weakly"))):
        some = [(r, m) for _, word, r, m in scores if word in words]
        print(
            f"shapes that the layout {name}: r {np.mean([r for r, _ in some]):.3f}, MAE {np.mean([m for _, m in some]):.4f} over {len(some)}"
        )
    worst = sorted({s for s, *_ in scores}, key=lambda s: np.mean([r for n, _, r, _ in scores if n == s]))
    print("worst first:", ", ".join(f"{s} {np.mean([r for n, _, r, _ in scores if n == s]):.2f}" for s in worst))
    print("not seen:", ", ".join(sorted(set(unseen[0]).intersection(*unseen))))


def picked(picture: np.ndarray, centres: np.ndarray, fov: float) -> DotLayout:
    """What an animator gets by clicking each dot in the first picture."""
    dots: list[Dot] = []
    for number, place, (x, y) in zip(count(1), PLACES, centres, strict=False):
        try:
            dots.append(replace(pick_dot(picture, x, y, f"dot {number}"), place=place))
        except InputError:
            continue
    return DotLayout((picture.shape[1], picture.shape[0]), tuple(dots), fov)


if __name__ == "__main__":
    main()
