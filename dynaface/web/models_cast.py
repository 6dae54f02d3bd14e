"""What the API gives about characters, their health, matches and joints."""

from pydantic import BaseModel


class CastMatch(BaseModel):
    target: str
    shape: str
    meshes: list[str]
    how: str


class CastReport(BaseModel):
    matched: list[CastMatch]
    missing: list[str]
    unused: list[str]
    eyeJoints: list[str]
    meshes: list[str]


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


class JoinReport(BaseModel):
    matches: dict[str, str]
    target: list[str]
    source: list[str]
    offset: float | None
