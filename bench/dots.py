"""How well colour dots are followed and solved, on a head mount and before a webcam: `python -m bench.dots [first seed] [performers]`.

Performers, cameras and light are not those that anything was set on; truth is read only after the solve.
"""

import sys
import time
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import count
from typing import Any

import numpy as np

from bench.scores import agreement_of
from dynaface.core.curves.channels import Channels
from dynaface.core.dots.dot import Dot, DotLayout, pick_dot
from dynaface.core.dots.solve import HEAD, NEITHER
from dynaface.core.dots.track import follow_dots
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.pipelines.solve_dots import solve_clip
from dynaface.sims.footage.clip import Setting, random_setting
from dynaface.sims.footage.dots import PLACES, colours, film, head_mount, paint_centres
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import expressive, range_of_motion

FIRST, PERFORMERS, FRAMES, RATE, PEAK = 601, 3, 240, Fraction(30), 0.25


@dataclass
class Told:
    """What the clips of one kind of camera gave. scores: (shape, how it is seen, r, MAE); off: (frames, dots, 2) pixels of each clip
    from the middle of a dot's paint, astray: from its place on the face; times: seconds of following and of decoding; angles:
    (frames, 3) degrees of each clip, where the head moves.
    """

    scores: list[tuple[str, str, float, float]] = field(default_factory=list)
    off: list[np.ndarray] = field(default_factory=list)
    astray: list[np.ndarray] = field(default_factory=list)
    times: list[tuple[float, float]] = field(default_factory=list)
    unseen: list[list[str]] = field(default_factory=list)
    angles: list[np.ndarray] = field(default_factory=list)

    def add(self, seed: int, setting: Setting, moves: str) -> None:
        """A performer before a camera: range of motion and a line, both with dots."""
        performer = make_performer(general_head(), seed)
        rom, named = range_of_motion(seed)
        acted = expressive(FRAMES / 30 + 0.1, seed * 10)
        truth = Channels(acted.names, acted.values[:FRAMES], acted.rate)
        clips, centres = {}, {}
        for number, (part, what) in enumerate((("rom", rom), ("line", truth))):
            made = film(performer, landmark_places(), what, setting, seed + number, colours())
            clips[part] = video.read(video.encode(made.pictures, RATE))
            centres[part] = np.array(made.centres) - 0.5  # pixels are counted from their middles
        layout = picked(next(clips["rom"].pictures()), centres["rom"][0], setting.fov)
        shown: Any = named
        first, last = shown["neutral"]
        layout = replace(layout, neutral=(first, last), samples=shown["samples"], moves=moves)
        pictures = list(clips["line"].pictures())
        follow_dots(iter(pictures[:2]), layout)  # compiled before it is timed
        began = time.perf_counter()
        track = follow_dots(iter(pictures), layout)
        followed = time.perf_counter() - began
        began = time.perf_counter()
        sum(1 for _ in clips["line"].pictures())
        self.times.append((followed, time.perf_counter() - began))
        own = [PLACES.index(d.place) for d in layout.dots]
        seen_at = paint_centres(performer, landmark_places(), truth, setting, seed + 1, colours()) - 0.5
        self.off.append(track.points - seen_at[:, own])
        self.astray.append(track.points - centres["line"][:, own])
        solved, _, head = solve_clip(clips["line"], layout, clips["rom"])
        seen, values = head.basis.seen(), solved.channels.values.astype(float)
        self.unseen.append([s for s in SHAPES if seen[s] == "not seen"])
        if moves == HEAD:
            wanted = truth.values[:, 52:] - rom.values[first : last + 1, 52:].mean(axis=0)
            self.angles.append(values[:, 52:55] - wanted)
        for i, shape in enumerate(SHAPES):
            x, t = values[:, i], truth.values[:, i].astype(float)
            if seen[shape] == "not seen" or t.max() < PEAK or shape.startswith("eyeLook"):
                continue
            self.scores.append((shape, seen[shape], *agreement_of(x, t)))

    def tell(self, name: str) -> None:
        """Prints the figures."""
        after = [off - np.nanmean(off, axis=0) for off in self.astray]
        rms = [
            float(np.sqrt(np.nanmean((np.concatenate(e) ** 2).sum(axis=-1)))) for e in (self.off, self.astray, after)
        ]
        lost = np.mean([np.isnan(off[..., 0]).mean() for off in self.off])
        share = sum(a for a, _ in self.times) / sum(b for _, b in self.times)
        print(f"{name}: centres RMS {rms[0]:.2f} px from the middle of what the camera sees of a dot's paint; {rms[1]:.2f} px from the dot's place on "
              f"the face (its far side is seen less where skin bends, a fold hides part of it), {rms[2]:.2f} px after each dot's own constant; lost "
              f"{lost:.1%}; following {len(PLACES)} dots takes {share:.2f} of the time that decoding takes")  # fmt: skip
        for how, words in (("sees well", ("well",)), ("sees at all", ("well", "weakly"))):
            some = [(r, m) for _, word, r, m in self.scores if word in words]
            r, error = np.mean(some, axis=0)
            print(f"  shapes that the layout {how}: r {r:.3f}, MAE {error:.4f} over {len(some)}")
        worst = sorted({s for s, *_ in self.scores}, key=self._r)
        print("  worst first:", ", ".join(f"{s} {self._r(s):.2f}" for s in worst))
        print("  not seen:", ", ".join(sorted(set(self.unseen[0]).intersection(*self.unseen))))
        if self.angles:
            print(
                "  head angles, RMS error in degrees (turn, nod, tilt):",
                np.sqrt((np.concatenate(self.angles) ** 2).mean(axis=0)).round(2),
            )

    def _r(self, shape: str) -> float:
        return float(np.mean([r for s, _, r, _ in self.scores if s == shape]))


def main() -> None:
    """Prints everything."""
    first, many = (int(a) for a in (*sys.argv[1:3], *(str(FIRST), str(PERFORMERS))[len(sys.argv[1:3]) :]))
    for name, setting, moves in (("on a head mount", head_mount, NEITHER), ("before a webcam", random_setting, HEAD)):
        told = Told()
        for seed in range(first, first + many):
            told.add(seed, setting(seed), moves)
        told.tell(name)


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
