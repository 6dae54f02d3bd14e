"""The ways in which each region goes: strengths are set for each on its own."""

from dynaface.core.shapes.standard import SHAPES

_STEMS: dict[str, dict[str, tuple[str, ...]]] = {
    "brows": {"up": ("browInnerUp", "browOuterUp"), "down": ("browDown",)},
    "lids": {"close": ("eyeBlink", "eyeSquint"), "widen": ("eyeWide",)},
    "gaze": {"up": ("eyeLookUp",), "down": ("eyeLookDown",), "aside": ("eyeLookIn", "eyeLookOut")},
    "cheeks": {"puff": ("cheekPuff",), "raise": ("cheekSquint",)},
    "jaw": {"open": ("jawOpen",), "forward": ("jawForward",), "aside": ("jawLeft", "jawRight")},
    "lips": {
        "up": ("mouthSmile",),
        "down": ("mouthFrown",),
        "wide": ("mouthStretch", "mouthDimple"),
        "round": ("mouthFunnel", "mouthPucker"),
        "part": ("mouthLowerDown", "mouthUpperUp"),
        "close": ("mouthClose", "mouthPress", "mouthRoll", "mouthShrug"),
        "aside": ("mouthLeft", "mouthRight"),
    },
}

WAYS: dict[str, tuple[str, ...]] = {
    f"{region} {way}": tuple(s for s in SHAPES if s.startswith(stems))
    for region, ways in _STEMS.items()
    for way, stems in ways.items()
}
WAY_OF: dict[str, str] = {shape: way for way, shapes in WAYS.items() for shape in shapes}
