"""The 52 standard face shapes, and the angle, travel and distance channels that go with them.

Left and right are the performer's own. A shape's weight is 0..1. Angles are in degrees: turn is positive to the
performer's left, nod is positive up, tilt is positive toward the performer's left shoulder. Travel is how far the head
went from where it mostly was, in millimetres: to the performer's left, up, and forward. Distances are weights that are
measured between two points of the performer and mean what a rig makes of them.
"""

SHAPES: tuple[str, ...] = (
    "browDownLeft", "browDownRight", "browInnerUp", "browOuterUpLeft", "browOuterUpRight",
    "eyeBlinkLeft", "eyeBlinkRight", "eyeSquintLeft", "eyeSquintRight", "eyeWideLeft", "eyeWideRight",
    "eyeLookUpLeft", "eyeLookUpRight", "eyeLookDownLeft", "eyeLookDownRight",
    "eyeLookInLeft", "eyeLookInRight", "eyeLookOutLeft", "eyeLookOutRight",
    "noseSneerLeft", "noseSneerRight",
    "cheekPuff", "cheekSquintLeft", "cheekSquintRight",
    "jawOpen", "jawForward", "jawLeft", "jawRight",
    "mouthClose", "mouthFunnel", "mouthPucker", "mouthLeft", "mouthRight",
    "mouthSmileLeft", "mouthSmileRight", "mouthFrownLeft", "mouthFrownRight",
    "mouthDimpleLeft", "mouthDimpleRight", "mouthStretchLeft", "mouthStretchRight",
    "mouthRollLower", "mouthRollUpper", "mouthShrugLower", "mouthShrugUpper",
    "mouthPressLeft", "mouthPressRight", "mouthLowerDownLeft", "mouthLowerDownRight",
    "mouthUpperUpLeft", "mouthUpperUpRight", "tongueOut",
)  # fmt: skip

HEAD_ANGLES: tuple[str, ...] = ("headTurn", "headNod", "headTilt")
GAZE_ANGLES: tuple[str, ...] = ("gazeTurnLeft", "gazeNodLeft", "gazeTurnRight", "gazeNodRight")
ANGLES: tuple[str, ...] = HEAD_ANGLES + GAZE_ANGLES
HEAD_TRAVEL: tuple[str, ...] = ("headSide", "headRise", "headForward")
DISTANCES: tuple[str, ...] = tuple(f"distance{n}" for n in range(1, 9))
CHANNELS: tuple[str, ...] = SHAPES + ANGLES + HEAD_TRAVEL + DISTANCES

PLACE_OF: dict[str, int] = {name: place for place, name in enumerate(CHANNELS)}
"""Where a channel stands in CHANNELS."""


def mirrored(channel: str) -> str:
    """The channel of the other side; a channel of the middle is its own mirror."""
    if channel in ("jawLeft", "jawRight", "mouthLeft", "mouthRight") or channel.endswith(("Left", "Right")):
        swapped = channel[:-4] + "Right" if channel.endswith("Left") else channel[:-5] + "Left"
        return swapped if swapped in CHANNELS else channel
    return channel


def full_range(channel: str) -> float:
    """How far a channel goes at full activity: 1 for a weight, 30 degrees for an angle, 100 millimetres of travel."""
    return 30.0 if channel in ANGLES else 100.0 if channel in HEAD_TRAVEL else 1.0


def unit_of(channel: str) -> str:
    """The end of a channel's name in our own tables: "Deg", "Mm", or "" for a weight."""
    return "Deg" if channel in ANGLES else "Mm" if channel in HEAD_TRAVEL else ""


def side(channel: str) -> str:
    """ "left", "right" or "middle"."""
    return "left" if channel.endswith("Left") else "right" if channel.endswith("Right") else "middle"
