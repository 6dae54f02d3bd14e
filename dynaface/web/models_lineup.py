"""What the API takes and gives of line-ups."""

from typing import Literal

from pydantic import BaseModel, Field, RootModel

from dynaface.core.documents.model.lineup import How, PlainPicture
from dynaface.web.models import VERSION, Strict
from dynaface.web.models_documents import Answer, LineUpDocument


class NewLineUp(Strict):
    name: str = Field(min_length=1, max_length=80)
    takes: list[str] = Field(max_length=100)
    rate: str = Field(default="", max_length=20)


class ChosenTakes(Strict):
    version: int = VERSION
    takes: list[str] = Field(max_length=100)


class ByTimecode(Strict):
    version: int = VERSION
    keys: list[str] = Field(default_factory=list, max_length=300)


class Compared(Strict):
    by: Literal["auto", "timecode", "sound", "motion", "curves", "clap", "lips"] = "auto"
    keys: list[str] = Field(default_factory=list, max_length=300)


class NewLineUpShot(Strict):
    name: str = Field(min_length=1, max_length=80)


class LineUpRow(BaseModel):
    id: str
    version: int
    name: str
    sources: int


class LineUpRows(RootModel[list[LineUpRow]]):
    pass


class RecordingRow(BaseModel):
    key: str
    take: str
    slate: str
    performer: str
    circled: bool
    part: Literal["face", "body", "sound"]
    names: list[str]
    kinds: list[str]
    seconds: float
    rate: str
    timecode: str
    timecodeRate: str
    remainder: float
    noted: bool
    start: float | None
    at: str
    atRemainder: float
    how: How
    confidence: float
    drift: float
    against: str | None
    picture: PlainPicture | None
    group: str
    apart: list[str]


class OpenedLineUp(Answer):
    lineup: LineUpDocument
    rows: list[RecordingRow]


class LineUpUsed(BaseModel):
    changed: list[str]
    left: list[str]
