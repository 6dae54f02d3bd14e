"""What the addresses of matches take and give."""

from typing import Any

from pydantic import BaseModel, Field, RootModel

from dynaface.web.models import Strict
from dynaface.web.models_documents import MatchDocument


class Joint(BaseModel):
    name: str
    parent: int
    at: tuple[float, float, float]
    twin: str
    part: str
    side: str


class HeldPose(BaseModel):
    first: float
    last: float
    pose: str
    arms: float


class KeptMatch(BaseModel):
    id: str
    version: int
    name: str
    posed: bool


class MatchReport(BaseModel):
    body: list[Joint]
    character: list[Joint]
    matches: dict[str, str]
    confidence: dict[str, float]
    shared: list[str]
    own: list[str]
    turns: dict[str, tuple[float, float, float]]
    chains: str
    said: int
    differences: dict[str, float]
    held: list[HeldPose]
    kept: KeptMatch | None


class NewMatch(Strict):
    name: str = Field(min_length=1, max_length=80)


class MatchCopy(Strict):
    production: str = Field(max_length=40)


class MatchRows(RootModel[list[MatchDocument]]):
    @classmethod
    def model_json_schema(cls, *args: Any, **more: Any) -> dict[str, Any]:
        return super().model_json_schema(*args, **{**more, "mode": "serialization"})
