"""The poses that the demo begins with: a neutral and twenty others, both sides alike unless a side is named."""

import json

from dynaface.assets import ASSETS
from dynaface.core.documents.model.pose import POSED
from dynaface.services.shot.poses import keep_pose
from dynaface.services.work import Work

# A name without a side stands for both.
POSES: dict[str, dict[str, float]] = {
    "reading the tide": {"eyeSquint": 0.45, "browDown": 0.25, "mouthPress": 0.2, "headNod": 4},
    "glad of the light": {"mouthSmile": 0.6, "cheekSquint": 0.4, "browInnerUp": 0.15, "eyeSquint": 0.15},
    "holding it in": {"mouthPress": 0.6, "mouthRollLower": 0.3, "browInnerUp": 0.4, "eyeSquint": 0.1},
    "what was that": {"browInnerUp": 0.5, "browOuterUp": 0.6, "eyeWide": 0.5, "jawOpen": 0.12},
    "not my fare": {"mouthFrown": 0.5, "mouthShrugLower": 0.4, "browDown": 0.2, "headTilt": 5},
    "cold wind": {"eyeSquint": 0.6, "noseSneer": 0.25, "mouthPress": 0.4, "browDown": 0.3},
    "half a smile": {"mouthSmileLeft": 0.5, "mouthDimpleLeft": 0.3, "cheekSquintLeft": 0.25, "browOuterUpLeft": 0.2},
    "doubt, left brow": {"browOuterUpLeft": 0.7, "browDownRight": 0.4, "mouthLeft": 0.2, "eyeSquintRight": 0.25},
    "about to speak": {"jawOpen": 0.14, "mouthFunnel": 0.12, "browInnerUp": 0.2, "headNod": 2},
    "calling across": {"jawOpen": 0.7, "mouthFunnel": 0.3, "mouthLowerDown": 0.3, "browInnerUp": 0.4, "headNod": 6},
    "whisper": {"mouthPucker": 0.3, "mouthFunnel": 0.25, "jawOpen": 0.08, "eyeSquint": 0.2, "headNod": -4},
    "tired of waiting": {"eyeBlink": 0.35, "browInnerUp": 0.25, "mouthFrown": 0.25, "headNod": -6},
    "falling asleep": {"eyeBlink": 0.75, "jawOpen": 0.1, "headNod": -10, "headTilt": 6},
    "sour": {"mouthPucker": 0.5, "eyeSquint": 0.6, "noseSneer": 0.5, "browDown": 0.5},
    "laughing": {"mouthSmile": 0.8, "jawOpen": 0.4, "cheekSquint": 0.7, "eyeSquint": 0.4, "mouthUpperUp": 0.2, "headNod": 5},
    "swallowing tears": {"browInnerUp": 0.8, "mouthShrugLower": 0.5, "mouthPress": 0.35, "eyeSquint": 0.3, "mouthFrown": 0.3},
    "angry": {"browDown": 0.8, "noseSneer": 0.4, "mouthPress": 0.5, "eyeWide": 0.2, "jawForward": 0.2},
    "teeth shown": {"mouthUpperUp": 0.6, "mouthLowerDown": 0.5, "noseSneer": 0.4, "browDown": 0.5, "jawOpen": 0.1},
    "puffed": {"cheekPuff": 0.8, "mouthPress": 0.4, "eyeWide": 0.3, "browOuterUp": 0.3},
    "proud": {"mouthSmile": 0.25, "mouthPress": 0.25, "browOuterUp": 0.2, "eyeBlink": 0.12, "headNod": 8},
}  # fmt: skip
NEUTRAL = "neutral"


def seed_poses(work: Work, production: str) -> None:
    """Keeps them in a production."""
    pictures = json.loads((ASSETS / "demo" / "poses.json").read_text())
    for name, said in {NEUTRAL: {}, **POSES}.items():
        values = {**dict.fromkeys(POSED, 0.0), **both_sides(said)}
        keep_pose(work, production, {"name": name, "values": values, "picture": pictures.get(name, "")})


def both_sides(said: dict[str, float]) -> dict[str, float]:
    """Values of channels, where a name without a side stands for both."""
    return {
        c: value for name, value in said.items() for c in ([name] if name in POSED else [f"{name}Left", f"{name}Right"])
    }
