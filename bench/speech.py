"""Words of a voice and what the mouth does for them: `python -m bench.speech` (needs Debian's flite beside espeak-ng).

Prints word edges against the synthesisers' own times: English by flite's voices that were made from recordings of people (their labels
are the truth), German, Spanish and French by voices of another kind, speed and pitch than the one that is carried over, made to hurry
and to drag at random; all with noise and silence about them. Then lip closures of m, b, p against flite's own times of these phones, curves from speech alone
against the acting simulator for lines that nothing was set on, and the time of it all.
"""

import json
import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from bench.scores import agreement_of
from dynaface.assets import ASSETS
from dynaface.core.shapes.regions import REGION
from dynaface.core.sound.sound import Sound
from dynaface.core.speech.mouth import mouth
from dynaface.core.speech.words import Word
from dynaface.formats.entries import wav
from dynaface.pipelines.find_words import find_words
from dynaface.pipelines.speaker import speak
from dynaface.sims.actor import Temper, act
from dynaface.sims.speech import Phone

RATE, LEAD = 60, 0.4  # frames a second; seconds of silence before and after
ENGLISH = (
    "Bring the map before the tide turns.", "Some people prefer black bread and butter.", "The captain promised nobody a place.",
    "Maybe the pump broke, or perhaps the pipe did.", "A small boy climbed up the mast.", "We keep the boxes by the pier.",
    "My mother made plum jam every summer.", "Open the blue umbrella, it rains again.",
)  # fmt: skip
OTHERS = {
    "de": ("Die Möwen sitzen auf dem alten Steg.", "Morgen bringt mein Bruder eine neue Lampe.", "Das Boot fährt bald über den breiten Fluss."),
    "es": ("El viejo faro brilla sobre el puerto.", "Mañana mi hermano compra una lámpara nueva.", "Nadie paga dos veces por el mismo barco."),
    "fr": ("Le vieux phare brille sur le port.", "Demain mon frère achète une lampe neuve.", "Personne ne paie deux fois le même bateau."),
}  # fmt: skip
FLITE = ("slt", "rms", "awb", "kal16")
VARIANTS = (("+klatt2", 140), ("+m3", 175), ("+f4", 150))
Edges = list[tuple[str, float, float]]


def flite(text: str, voice: str, slower: float) -> tuple[Sound, Edges, Edges] | None:
    """(sound, words, phones m, b, p with their times); None where the words cannot be told from the list of phones."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "said.wav"
        told = _run("-voice", voice, "--setf", f"duration_stretch={slower}", "-psdur", "-t", text, str(path))
        sound = wav.read(path.read_bytes())
    names = [t.split(":")[0] for t in told]
    ends = [float(t.split(":")[1]) for t in told]
    starts = [0.0, *ends[:-1]]
    spoken = [i for i, n in enumerate(names) if n != "pau"]
    written = re.findall(r"[A-Za-z']+", text)
    counts = [sum(p != "pau" for p in _run("-voice", voice, "-ps", "-t", w, "none")) for w in written]
    if sum(counts) != len(spoken):
        return None
    words, at = [], 0
    for word, count in zip(written, counts, strict=True):
        words.append((word, starts[spoken[at]], ends[spoken[at + count - 1]]))
        at += count
    return sound, words, [(names[i], starts[i], ends[i]) for i in spoken if names[i] in "mbp"]


def _run(*arguments: str) -> list[str]:
    return subprocess.run(["flite", *arguments], capture_output=True, text=True, check=True).stdout.split()


def noisy(sound: Sound, decibels: float, seed: int) -> Sound:
    """With LEAD seconds of silence on both sides, and noise that has more low tones, so many decibels below the voice."""
    rng = np.random.default_rng(seed)
    mono = sound.mono().astype(float)
    level = np.sqrt(np.mean(mono[np.abs(mono) > 0.02] ** 2))
    quiet = np.zeros(int(LEAD * sound.rate))
    whole = np.concatenate([quiet, mono, quiet])
    noise = rng.normal(0, 1, len(whole))
    noise += 0.02 * np.cumsum(noise)
    return Sound((whole + noise / noise.std() * level * 10 ** (-decibels / 20)).astype(np.float32)[:, None], sound.rate)


def warped(sound: Sound, edges: Edges, seed: int) -> tuple[Sound, Edges]:
    """Spoken now faster, now slower, by up to a fifth, so that no other speaking of the same text goes alike."""
    rng = np.random.default_rng(seed)
    knots = np.linspace(0, sound.seconds, 9)
    rates = np.interp(np.arange(len(sound.samples)) / sound.rate, knots, rng.uniform(0.8, 1.25, len(knots)))
    at = np.cumsum(rates) / sound.rate
    at = at - at[0]
    there = np.arange(int(at[-1] * sound.rate)) / sound.rate
    samples = np.interp(
        np.interp(there, at, np.arange(len(at)) / sound.rate) * sound.rate, np.arange(len(at)), sound.mono()
    )
    moved = [(w, *(float(v) for v in np.interp([a, b], np.arange(len(at)) / sound.rate, at))) for w, a, b in edges]
    return Sound(samples.astype(np.float32)[:, None], sound.rate), moved  # type: ignore[return-value]


def off(found: list[Word], true: Edges) -> list[float] | None:
    """Seconds by which edges of words are off; None where the words are not the same in number."""
    if len(found) != len(true):
        return None
    pairs = list(zip(found, true, strict=True))
    return [abs(w.first - LEAD - t[1]) for w, t in pairs] + [abs(w.last - LEAD - t[2]) for w, t in pairs]


def told(label: str, errors: list[float], wanted: float, left_out: int) -> None:
    """One line of figures."""
    ms = np.asarray(errors) * 1000
    print(f"word edges, {label}: median {np.median(ms):.0f} ms (at most {wanted:.0f}), 90 % within {np.percentile(ms, 90):.0f}, "
          f"{len(ms)} edges, {left_out} lines left out")  # fmt: skip


def english() -> None:
    """Word edges and lip closures."""
    errors, closed, left_out = [], [], 0
    seconds = heard = 0.0
    for v, voice in enumerate(FLITE):
        for k, text in enumerate(ENGLISH):
            made = flite(text, voice, (1.0, 1.2, 0.85)[k % 3])
            if made is None:
                left_out += 1
                continue
            sound, words, shut = made
            loud = noisy(sound, (25, 15)[k % 2], 100 * v + k)
            began = time.perf_counter()
            found = find_words(loud, text, "en")
            seconds, heard = seconds + time.perf_counter() - began, heard + loud.seconds
            by = off(found, words)
            if by is None:
                left_out += 1
                continue
            errors += by
            times = np.arange(int(loud.seconds * RATE)) / RATE
            lips = mouth(found, times)
            for _, first, last in shut:
                closed.append(_closes(lips, first + LEAD, last + LEAD))
    told("English", errors, 30, left_out)
    print(
        f"lips shut for m, b, p within 2 frames at {RATE} fps: {np.mean(closed):.1%} of {len(closed)} (at least 97 %)"
    )
    print(f"finding words takes {seconds / heard:.3f} s a second of sound")


def _closes(lips: dict[str, np.ndarray], first: float, last: float) -> bool:
    """Whether what parts the lips is gone at some frame between two moments, or within two frames of them."""
    low, high = int(first * RATE) - 2, int(np.ceil(last * RATE)) + 3
    parted = lips["jawOpen"] - lips["mouthClose"] + 0.3 * (lips["mouthLowerDownLeft"] + lips["mouthUpperUpLeft"])
    return bool(parted[low:high].min() < 0.05)


def other_languages() -> None:
    """Word edges in other languages."""
    for language, lines in OTHERS.items():
        errors, left_out = [], 0
        for k, text in enumerate(lines):
            for n, (variant, speed) in enumerate(VARIANTS):
                said = speak(text, language + variant, speed)
                sound, words = warped(said.sound, [(w.word, w.first, w.last) for w in said.words], 50 + 10 * k + n)
                by = off(find_words(noisy(sound, (25, 15)[n % 2], 10 * k + n), text, language), words)
                left_out += by is None
                errors += by or []
        told(language, errors, 45, left_out)


def mouths() -> None:
    """Curves from speech alone against the acting simulator."""
    folder = ASSETS / "bench" / "speech"
    found: dict[str, list[float]] = {}
    for number, line in enumerate(json.loads((folder / "lines.json").read_text())):
        sound = wav.read((folder / line["file"]).read_bytes())
        phones = [Phone(p["name"], p["start"], p["end"]) for p in line["phones"]]
        truth = act(phones, sound.seconds, 9000 + number, Temper())
        made = mouth(find_words(sound, line["text"]), np.arange(truth.frames) / float(truth.rate))
        for channel in truth.names:
            if REGION[channel] in ("jaw", "lips") and truth.column(channel).std() > 0.01:
                curve = made.get(channel, np.zeros(truth.frames))
                found.setdefault(channel, []).append(agreement_of(curve, truth.column(channel))[0])
    by = {c: float(np.mean(r)) for c, r in found.items()}
    print(f"speech alone against acted lines: r {np.mean(list(by.values())):.3f} over {len(by)} shapes of jaw and lips (at least 0.75), "
          f"jawOpen {by['jawOpen']:.3f}; least {min(by, key=lambda c: by[c])} {min(by.values()):.3f}")  # fmt: skip


if __name__ == "__main__":
    if subprocess.run(["which", "flite"], capture_output=True).returncode:
        sys.exit("flite is not installed; install Debian's package flite")
    english()
    other_languages()
    mouths()
