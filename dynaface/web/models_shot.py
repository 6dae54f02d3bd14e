"""What the API takes and gives of shots."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, RootModel

from dynaface.web.models import MEDIA, VERSION, Changes, HandoverSettingsIn, PieceAsked, Strict
from dynaface.web.models_documents import (
    Answer,
    CastDocument,
    CharacterDocument,
    LayerDocument,
    ProfilesDocument,
    ShotDocument,
    WordsDocument,
)

OPEN = Field(default="", pattern=r"^(\d{1,10}(/[1-9]\d{0,8})?)?$")
SECONDS = Field(default="0", pattern=r"^-?\d{1,10}(/[1-9]\d{0,8})?$")
ID = r"^[0-9a-f-]{36}$"


class NewShot(Strict):
    name: str = Field(min_length=1, max_length=80)
    rate: str = Field(default="", max_length=20)
    takes: list[str] = Field(default_factory=list, max_length=100)


class ShotRow(BaseModel):
    id: str
    version: int
    name: str
    archived: bool
    rate: str
    seconds: float
    roles: list[str]


class ShotRows(RootModel[list[ShotRow]]):
    pass


class ClipRow(BaseModel):
    id: str
    version: int
    name: str
    take: str
    slate: str
    performer: str
    first: str
    last: str
    frozen: bool
    sound: str | None
    body: bool
    soundOffset: float
    seconds: float
    used: list[str]


class ClipRows(RootModel[list[ClipRow]]):
    pass


class OpenedShotOut(Answer):
    shot: ShotDocument
    layers: list[LayerDocument]
    clips: list[ClipRow]
    characters: list[CharacterDocument]
    casts: list[CastDocument]
    words: list[WordsDocument]
    profiles: ProfilesDocument | None


class NewClip(Strict):
    first: str = OPEN
    last: str = OPEN
    name: str = Field(default="", max_length=80)


class NewLayer(Strict):
    role: str = Field(min_length=1, max_length=120)
    name: str = Field(min_length=1, max_length=80)
    does: Literal["add", "replace", "scale"] = "add"
    regions: list[str] = Field(default_factory=list, max_length=20)
    touchup: bool = False


Metres = Annotated[float, Field(ge=-100, le=100)]
Direction = Annotated[list[Metres], Field(min_length=3, max_length=3)]


class GrabAsked(Strict):
    role: str = Field(min_length=1, max_length=120)
    frame: int = Field(ge=0, le=10_000_000)
    place: Direction
    plane: list[Direction] = Field(min_length=2, max_length=2)
    wanted: list[Metres] = Field(min_length=2, max_length=2)
    regions: list[str] = Field(default_factory=list, max_length=20)
    mesh: str = Field(default="", max_length=200)
    rig: bool = False


class Grabbed(BaseModel):
    part: Literal["face", "eyes", "head"]
    channels: dict[str, float]


class AtVersion(Strict):
    version: int = VERSION


class PropBrought(AtVersion):
    media: str = MEDIA
    name: str = Field(min_length=1, max_length=200)


class SnapAsked(Strict):
    version: int = VERSION
    within: float = Field(default=6.0, ge=0, le=45)


class SnappedOut(Answer):
    layer: LayerDocument
    fixations: int
    met: int
    error: float | None


class OfRole(Strict):
    role: str = Field(min_length=1, max_length=120)


class RigRow(BaseModel):
    name: str
    part: Literal["target", "joint", "limb"]
    region: str
    channels: list[str]


class RigOut(BaseModel):
    character: str
    low: float
    high: float
    rows: list[RigRow]


class LooseBlink(AtVersion):
    frame: int = Field(ge=0, le=10_000_000)


class RoleMends(OfRole):
    keys: list[str] = Field(min_length=1, max_length=400)


class BakeAsked(OfRole):
    within: Annotated[list[int], Field(min_length=2, max_length=2)] | None = None
    tolerance: float = Field(default=0.005, ge=0.0005, le=0.2)


class NewPose(Strict):
    role: str = Field(min_length=1, max_length=120)
    frame: int = Field(ge=0, le=10_000_000)
    name: str = Field(min_length=1, max_length=80)
    regions: list[str] = Field(default_factory=list, max_length=20)
    picture: str = Field(default="", max_length=40_000)


class Said(Strict):
    text: str = Field(default="", max_length=4000)
    language: str = Field(default="en", max_length=12)


class LeadAsked(Strict):
    version: int = VERSION
    low: float = Field(ge=0, le=1.5)
    before: float = Field(default=0.12, ge=0, le=2)
    after: float = Field(default=0.15, ge=0, le=2)
    by: Literal["word", "phrase"] = "phrase"
    within: Annotated[list[int], Field(min_length=2, max_length=2)] | None = None


class WordsLead(LeadAsked):
    role: str = Field(min_length=1, max_length=120)
    regions: list[str] = Field(min_length=1, max_length=20)


class Hold(Strict):
    version: int = VERSION
    held: bool


class LayerKeyEdit(Strict):
    layer: str = Field(pattern=ID)
    edit: dict[str, Any]


RigName = Annotated[str, Field(max_length=300)]


class EvaluateRole(Strict):
    role: str = Field(min_length=1, max_length=120)
    pieces: list[PieceAsked] = Field(max_length=12)
    shot: Changes = Field(default_factory=list)
    layers: dict[str, Changes] = Field(default_factory=dict, max_length=40)
    character: str | None = Field(default=None, pattern=ID)
    stepped: bool = False
    edit: LayerKeyEdit | None = None
    rig: list[RigName] = Field(default_factory=list, max_length=80)
    mends: list[str] = Field(default_factory=list, max_length=400)


class RoleHandoverIn(Strict):
    role: str = Field(max_length=120)
    settings: HandoverSettingsIn


class CutAsked(Strict):
    version: int = VERSION
    label: str = Field(min_length=1, max_length=120)
    do: Literal["split", "join", "make room", "take out", "let the sound go"]
    role: str = Field(default="", max_length=120)
    placement: str = Field(default="", max_length=120)
    at: str = SECONDS
    seconds: str = SECONDS
