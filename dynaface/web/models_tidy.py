"""What the API takes and gives about tidying."""

from typing import Any

from pydantic import BaseModel, Field, RootModel

from dynaface.web.models import VERSION, Strict
from dynaface.web.models_documents import Answer, LayerDocument, TakeDocument


class SnagOut(BaseModel):
    key: str
    kind: str
    region: str
    channels: list[str]
    first: int
    last: int
    severity: float
    measured: float
    limit: float
    unit: str
    words: str
    steps: list[dict[str, Any]]
    soundShift: float
    reason: str = ""


class SnagKind(BaseModel):
    name: str
    label: str
    help: str


class SnagList(BaseModel):
    snags: list[SnagOut]
    more: int
    dismissed: list[SnagOut]
    kinds: list[SnagKind]
    silent: bool


class Mends(Strict):
    version: int = VERSION
    keys: list[str] = Field(min_length=1, max_length=400)


class KeyEdit(Strict):
    version: int = VERSION
    label: str = Field(min_length=1, max_length=120)
    edit: dict[str, Any]


class KeyReport(BaseModel):
    mode: str
    keys: int
    worst: float
    mean: float


class KeysEdited(Answer):
    document: TakeDocument
    report: dict[str, KeyReport]


class LayerKeysEdited(Answer):
    document: LayerDocument
    report: dict[str, KeyReport]


class NewStack(Strict):
    name: str = Field(min_length=1, max_length=80)


class StackRow(BaseModel):
    id: str
    version: int
    name: str
    steps: int


class StackRows(RootModel[list[StackRow]]):
    pass


class StackRun(Strict):
    takes: list[str] = Field(min_length=1, max_length=500)


class StackRan(BaseModel):
    done: list[str]
    failed: list[dict[str, str]]
