"""What the API takes and gives of markers."""

from pydantic import BaseModel, Field, RootModel

from dynaface.web.models import Strict


class ChartPlace(BaseModel):
    name: str
    region: str
    mirrored: str
    fixed: bool
    at: list[float]


class ChartPlaces(RootModel[list[ChartPlace]]):
    pass


class NewLayout(Strict):
    name: str = Field(min_length=1, max_length=80)
    neutral: tuple[int, int] | None = None


class LayoutStudy(BaseModel):
    problem: str
    doubts: list[str]
    seen: dict[str, str]
    fixed: int
    rotation: list[float]
    shift: list[float]


class NewDots(Strict):
    name: str = Field(min_length=1, max_length=80)


class NewPick(Strict):
    frame: int = Field(ge=0, le=10_000_000)
    x: float
    y: float
    place: str = Field(max_length=80)
    mirror: bool = True


class NewDotSolve(Strict):
    dots: str = Field(pattern=r"^[0-9a-f-]{36}$")


class NewMarkerSolve(Strict):
    layout: str = Field(pattern=r"^[0-9a-f-]{36}$")
