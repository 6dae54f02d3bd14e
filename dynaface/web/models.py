"""What the API takes and gives, checked and described by pydantic."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, RootModel

from dynaface.core.documents.model.presets import PlainOptions

ID = Field(pattern=r"^[0-9a-f-]{36}$")
MAX_OPEN = 5000  # documents that are open at once: a long shot has layers, clips and words
VERSION = Field(ge=0, lt=1 << 31)  # as the database counts them
MEDIA = Field(pattern=r"^[0-9a-f]{64}$")


class Strict(BaseModel):
    """Refuses fields that it does not know."""

    model_config = ConfigDict(extra="forbid")


class Health(BaseModel):
    ok: bool
    database: bool
    queue: bool


class FeedDoor(BaseModel):
    address: str
    ticket: str


class FeedToken(BaseModel):
    token: str
    address: str


class NewPassword(Strict):
    old: str = Field(max_length=200)
    new: str = Field(max_length=200)


class SessionOut(BaseModel):
    id: str
    address: str
    agent: str
    begun: datetime
    seen: datetime
    here: bool


class SessionsOut(RootModel[list[SessionOut]]):
    pass


class SignIn(Strict):
    name: str = Field(max_length=80)
    password: str = Field(max_length=200)


class Session(BaseModel):
    id: str
    name: str
    alone: bool


class NewProduction(Strict):
    name: str = Field(min_length=1, max_length=80)


class NewMember(Strict):
    name: str = Field(min_length=1, max_length=80)


class ProductionOut(BaseModel):
    id: str
    name: str
    role: str


class Productions(RootModel[list[ProductionOut]]):
    pass


class File(Strict):
    media: str = MEDIA
    name: str = Field(min_length=1, max_length=200)
    recipe: dict[str, Any] | None = None


class Attached(File):
    part: Literal["body", "hands"] | None = None
    which: int = Field(default=0, ge=0, le=1000)


class FoundBody(BaseModel):
    name: str
    frames: int
    rate: str
    seconds: float
    joints: int
    timecode: str
    fingers: int
    notes: list[str]


class FoundBodies(RootModel[list[FoundBody]]):
    pass


class Uploaded(BaseModel):
    media: str
    size: int


class NewUpload(Strict):
    size: int = Field(ge=0)


class Uploading(BaseModel):
    upload: str
    received: int
    media: str


class Inspection(BaseModel):
    kind: str
    format: str
    remembered: bool
    report: dict[str, Any]


class NewTake(Strict):
    slate: str = Field(min_length=1, max_length=80)
    performer: str = Field(max_length=80)
    files: list[Attached] = Field(max_length=10)


class NewCharacter(Strict):
    name: str = Field(min_length=1, max_length=80)
    file: File


class SourceOut(BaseModel):
    id: str
    kind: str
    name: str
    media: str
    size: int
    info: dict[str, Any]


class Stages(BaseModel):
    gather: bool
    solve: bool
    tidy: bool
    cast: bool
    join: bool
    handover: bool


class TakeRow(BaseModel):
    id: str
    version: int
    slate: str
    performer: str
    notes: str
    circled: bool
    archived: bool
    seconds: float
    rate: str
    timecode: str
    holds: list[str]
    faults: int
    snags: int | None
    stages: Stages


class TakeRows(RootModel[list[TakeRow]]):
    pass


class CharacterRow(BaseModel):
    id: str
    version: int
    name: str
    source: str
    info: dict[str, Any]


class CharacterRows(RootModel[list[CharacterRow]]):
    pass


class Wanted(Strict):
    path: str = Field(min_length=1, max_length=600)
    value: Any = None
    remove: bool = False


class Edit(Strict):
    version: int = VERSION
    label: str = Field(min_length=1, max_length=120)
    changes: list[Wanted] = Field(max_length=500)


class Documents(Strict):
    documents: list[str] = Field(min_length=1, max_length=MAX_OPEN)


class HistoryState(BaseModel):
    undo: str
    redo: str


class PieceAsked(Strict):
    part: Literal["raw", "tidied", "weights", "motion", "root", "shifts", "joints", "props", "rigRaw", "rig"]
    have: str = Field(default="", max_length=64)
    first: int | None = Field(default=None, ge=0, le=10_000_000)
    last: int | None = Field(default=None, ge=0, le=10_000_000)


MAX_JOINTS = 12  # whose curves are shown at once
Changes = Annotated[list[Wanted], Field(max_length=500)]


class Evaluate(Strict):
    pieces: list[PieceAsked] = Field(max_length=12)
    take: Changes = Field(default_factory=list)
    cast: Changes = Field(default_factory=list)
    join: Changes = Field(default_factory=list)
    curves: str | None = Field(default=None, pattern=r"^[0-9a-f-]{36}$")
    character: str | None = Field(default=None, pattern=r"^[0-9a-f-]{36}$")
    joints: list[Annotated[str, Field(max_length=200)]] = Field(default_factory=list, max_length=MAX_JOINTS)
    mends: list[str] = Field(default_factory=list, max_length=400)
    bodyMends: list[str] = Field(default_factory=list, max_length=400)
    edit: dict[str, Any] | None = None


class SyncEstimate(BaseModel):
    offset: float
    confidence: float
    confident: bool
    lags: list[float]
    scores: list[float]


class BodyFit(SyncEstimate):
    how: str
    nudge: float


class SilentWay(BaseModel):
    how: str
    why: str


class BodyFound(BaseModel):
    fits: list[BodyFit]
    silent: list[SilentWay]


class TakenAgain(Strict):
    take: str = Field(pattern=r"^[0-9a-f-]{36}$")
    frame: int = Field(ge=0, le=10_000_000)


class NewCard(Strict):
    name: str = Field(min_length=1, max_length=80)
    neutral: tuple[int, int] | None = None
    samples: dict[str, int] = Field(default_factory=dict, max_length=52)
    again: dict[str, TakenAgain] = Field(default_factory=dict, max_length=52)
    turn: str | None = Field(default=None, pattern=r"^[0-9a-f-]{36}$")
    fov: float | None = Field(default=None, ge=5, le=120)


class CardLens(BaseModel):
    how: str
    fov: float
    low: float
    high: float


class CardRow(BaseModel):
    id: str
    version: int
    name: str
    performer: str
    day: str
    sampled: int
    ready: bool
    off: list[str]
    drives: dict[str, Any]
    lens: CardLens | None


class CardCopy(Strict):
    day: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")


class CardRows(RootModel[list[CardRow]]):
    pass


class Doubts(BaseModel):
    doubts: list[str]


class ShownAgain(BaseModel):
    footage: str
    frame: int | None
    frames: int
    rate: str
    width: int
    height: int


class NotesApplied(BaseModel):
    changed: int
    unknown: list[str]


class NewSolve(Strict):
    card: str | None = Field(default=None, pattern=r"^[0-9a-f-]{36}$")
    first: int | None = Field(default=None, ge=0)
    last: int | None = Field(default=None, ge=0)
    moves: Literal["head", "camera", "neither"] = "head"
    neutral: int | None = Field(default=None, ge=0)


class SolveRow(BaseModel):
    source: str
    name: str
    by: str
    card: str
    made: str
    first: int
    frames: int
    confidence: float
    unsure: int
    lost: int
    moves: str
    tacks: int
    neutral: list[int]
    unlike: bool


class SolveRows(RootModel[list[SolveRow]]):
    pass


class HandoverSettingsIn(Strict):
    forms: dict[str, dict[str, float | str]] = Field(
        default={"gltf": {}, "curve table": {}}, min_length=1, max_length=20
    )
    options: PlainOptions = PlainOptions()
    pattern: str = Field(default="{name}", min_length=1, max_length=120)


class HandoversAsked(Strict):
    of: list[Annotated[str, ID]] = Field(min_length=1, max_length=200)
    settings: HandoverSettingsIn = HandoverSettingsIn()


class Returned(Strict):
    """Files that come back; onto: the take or shot that is open; as_face: a character becomes a change of its face."""

    files: list[File] = Field(min_length=1, max_length=40)
    onto: str = Field(default="", pattern=r"^$|^[0-9a-f-]{36}$")
    as_face: bool = False


class JobOut(BaseModel):
    id: str
    kind: str
    label: str
    state: str
    progress: float
    message: str
    result: dict[str, Any]


class JobsOut(RootModel[list[JobOut]]):
    pass


class HandoverOut(BaseModel):
    id: str
    document: str
    label: str
    settings: dict[str, Any]
    report: dict[str, Any]
    files: list[dict[str, Any]]
    created: str


class HandoverFormOut(BaseModel):
    name: str
    label: str
    ending: str
    about: str
    parameters: list["ParameterOut"]


class HandoverFormsOut(BaseModel):
    forms: list[HandoverFormOut]
    words: list[str]


class HandoversOut(RootModel[list[HandoverOut]]):
    pass


class ParameterOut(BaseModel):
    name: str
    label: str
    kind: Literal["number", "choice", "frames", "looks", "profile", "per_region", "per_channel"]
    default: float | str | list[int]
    unit: str
    low: float
    high: float
    step: float
    options: list[str]
    help: str


class StepOut(BaseModel):
    name: str
    label: str
    kind: str
    help: str
    regions: list[str]
    needsPlace: bool
    parameters: list[ParameterOut]


class MakerOut(BaseModel):
    name: str
    label: str
    help: str
    parameters: list[ParameterOut]


class BodyStepOut(BaseModel):
    name: str
    label: str
    help: str
    parameters: list[ParameterOut]


class Catalogue(BaseModel):
    steps: list[StepOut]
    shapes: list[str]
    channels: list[str]
    regions: list[str]
    regionOf: dict[str, str]
    unitOf: dict[str, str]
    ways: dict[str, list[str]]
    aims: list[str]
    makers: list[MakerOut]
    bodySteps: list[BodyStepOut]
    bodyGroups: list[str]


class Problem(BaseModel):
    message: str
    where: str
    hint: str
