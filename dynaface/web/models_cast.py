"""What the API takes and gives about characters, their health, matches, joints, proportions and sheets."""

from typing import Literal

from pydantic import BaseModel, Field

from dynaface.web.models import Changes, File, Strict
from dynaface.web.models_documents import Answer, CharacterDocument


class CastMatch(BaseModel):
    target: str
    shape: str
    parts: dict[str, float]
    meshes: list[str]
    how: str
    confidence: float


class CombinationOut(BaseModel):
    of: list[str]
    by: str
    gain: float


class Drive(BaseModel):
    key: str
    joint: str
    channel: str
    moves: str
    axis: list[float]
    most: float
    bend: float


class CastReport(BaseModel):
    matched: list[CastMatch]
    combinations: dict[str, CombinationOut]
    drives: list[Drive]
    missing: list[str]
    unused: list[str]
    eyeJoints: list[str]
    meshes: list[str]
    joints: list[str]


class Guess(BaseModel):
    target: str
    shape: str
    confidence: float


class EdgeOut(BaseModel):
    width: float
    gap: float


class CharacterStudy(BaseModel):
    guesses: list[Guess]
    edges: dict[str, EdgeOut]
    measures: dict[str, float]


class AimJoint(Strict):
    joint: str = Field(max_length=200)
    channel: str = Field(max_length=40)
    way: str = Field(max_length=40)
    millimetres: float


class AimedJoint(Drive):
    pass


class BuildChangeOut(BaseModel):
    added: list[str]
    gone: list[str]
    renamed: dict[str, str]
    moved: list[str]
    jointsAdded: list[str]
    jointsGone: list[str]


class CharacterChange(Answer):
    character: CharacterDocument
    change: BuildChangeOut
    words: list[str]


class ProposalOut(BaseModel):
    field: str
    name: str
    value: float
    was: float
    ours: float
    theirs: float
    words: str


class Proportions(BaseModel):
    card: str
    proposals: list[ProposalOut]


class ExtremesAsked(Strict):
    cast: Changes = Field(default_factory=list)


class ExtremeOut(BaseModel):
    way: str
    value: float
    take: str
    slate: str
    frame: int
    words: list[str]
    targets: list[str]
    weights: list[float]
    still: list[list[str]]
    joints: list[str]
    motion: list[float]
    shifted: list[str]
    shifts: list[float]


class Extremes(BaseModel):
    extremes: list[ExtremeOut]


class Swap(Strict):
    character: str = Field(max_length=40)


class Foreseen(BaseModel):
    sheet: str
    sameBuild: bool
    words: list[str]
    matched: int
    drives: int
    missing: list[str]
    unused: list[str]


class CopySheet(Strict):
    performer: str = Field(max_length=80)


class SheetDifference(BaseModel):
    field: str
    name: str
    ours: str
    theirs: str


class SheetDifferences(BaseModel):
    differences: list[SheetDifference]


class NewClips(Strict):
    performer: str = Field(max_length=80)
    file: File
    startFrame: int = 0


class ImportedClip(BaseModel):
    id: str
    slate: str
    frames: int
    matched: int
    unmatched: list[str]
    joints: int
    notes: list[str]


class ImportedClips(BaseModel):
    takes: list[ImportedClip]


class Present(BaseModel):
    shape: str
    target: str
    meshes: list[str]


class HealthFinding(BaseModel):
    kind: str
    target: str
    meshes: list[str]
    words: str


class CharacterHealth(BaseModel):
    present: list[Present]
    findings: list[HealthFinding]
    joints: dict[str, list[str]]
    unit: str
    metres: float
    up: str


class Stands(BaseModel):
    side: Literal["Left", "Right", "LeftHand", "RightHand", "Hands"]
    first: float
    last: float
    key: str


class HeadJoints(BaseModel):
    """Joints from which on the head can be turned; those that turn it, with their shares of the turn."""

    starts: list[str]
    chain: list[str]
    shares: list[float]


class JoinReport(BaseModel):
    offset: float | None
    begins: float
    stands: list[Stands]
    head: HeadJoints
