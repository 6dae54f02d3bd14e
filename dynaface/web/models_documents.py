"""Documents as the API gives them; their bodies are the records of core/documents/model."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, RootModel

from dynaface.core.documents.model.body_stack import BodyStackBody
from dynaface.core.documents.model.card import CardBody
from dynaface.core.documents.model.cast import CastBody
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.dots import DotsBody
from dynaface.core.documents.model.feed_profile import FeedProfileBody
from dynaface.core.documents.model.join import JoinBody
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.layout import LayoutBody
from dynaface.core.documents.model.lineup import LineUpBody
from dynaface.core.documents.model.match import MatchBody
from dynaface.core.documents.model.measures import MeasuresBody
from dynaface.core.documents.model.pose import PoseBody
from dynaface.core.documents.model.presets import PresetsBody
from dynaface.core.documents.model.profiles import ProfilesBody
from dynaface.core.documents.model.shot import ClipBody, ShotBody
from dynaface.core.documents.model.stack import StackBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.documents.model.tidy import Tidy
from dynaface.core.documents.model.words import WordsBody
from dynaface.web.models import SourceOut


class Given:
    """Described as it is answered: what has a default is always there."""

    @classmethod
    def model_json_schema(cls, *args: Any, **more: Any) -> dict[str, Any]:
        """The description that pydantic makes of what is given, not of what may be asked."""
        return super().model_json_schema(*args, **{**more, "mode": "serialization"})  # type: ignore[misc]


class Answer(Given, BaseModel):
    model_config = ConfigDict(json_schema_serialization_defaults_required=True)


class DocumentOut(Answer):
    id: str
    production: str
    version: int


class TakeDocument(DocumentOut):
    kind: Literal["take"]
    body: TakeBody


class CharacterDocument(DocumentOut):
    kind: Literal["character"]
    body: CharacterBody


class CardDocument(DocumentOut):
    kind: Literal["card"]
    body: CardBody


class CastDocument(DocumentOut):
    kind: Literal["cast"]
    body: CastBody


class JoinDocument(DocumentOut):
    kind: Literal["join"]
    body: JoinBody


class StackDocument(DocumentOut):
    kind: Literal["stack"]
    body: StackBody


class BodyStackDocument(DocumentOut):
    kind: Literal["bodystack"]
    body: BodyStackBody


class LayoutDocument(DocumentOut):
    kind: Literal["layout"]
    body: LayoutBody


class DotsDocument(DocumentOut):
    kind: Literal["dots"]
    body: DotsBody


class ShotDocument(DocumentOut):
    kind: Literal["shot"]
    body: ShotBody


class ClipDocument(DocumentOut):
    kind: Literal["clip"]
    body: ClipBody


class LayerDocument(DocumentOut):
    kind: Literal["layer"]
    body: LayerBody


class PoseDocument(DocumentOut):
    kind: Literal["pose"]
    body: PoseBody


class PoseRows(RootModel[list[PoseDocument]]):
    @classmethod
    def model_json_schema(cls, *args: Any, **more: Any) -> dict[str, Any]:
        return super().model_json_schema(*args, **{**more, "mode": "serialization"})


class ProfilesDocument(DocumentOut):
    kind: Literal["profiles"]
    body: ProfilesBody


class PresetsDocument(DocumentOut):
    kind: Literal["presets"]
    body: PresetsBody


class LineUpDocument(DocumentOut):
    kind: Literal["lineup"]
    body: LineUpBody


class MeasuresDocument(DocumentOut):
    kind: Literal["measures"]
    body: MeasuresBody


class FeedProfileDocument(DocumentOut):
    kind: Literal["feedprofile"]
    body: FeedProfileBody


class FeedProfileRows(RootModel[list[FeedProfileDocument]]):
    @classmethod
    def model_json_schema(cls, *args: Any, **more: Any) -> dict[str, Any]:
        return super().model_json_schema(*args, **{**more, "mode": "serialization"})


class MeasuresRows(RootModel[list[MeasuresDocument]]):
    @classmethod
    def model_json_schema(cls, *args: Any, **more: Any) -> dict[str, Any]:
        return super().model_json_schema(*args, **{**more, "mode": "serialization"})


class MatchDocument(DocumentOut):
    kind: Literal["match"]
    body: MatchBody


class WordsDocument(DocumentOut):
    kind: Literal["words"]
    body: WordsBody


AnyKind = Annotated[
    TakeDocument
    | CharacterDocument
    | MeasuresDocument
    | FeedProfileDocument
    | CardDocument
    | CastDocument
    | JoinDocument
    | StackDocument
    | BodyStackDocument
    | LayoutDocument
    | DotsDocument
    | ShotDocument
    | ClipDocument
    | LayerDocument
    | WordsDocument
    | PoseDocument
    | ProfilesDocument
    | PresetsDocument
    | LineUpDocument
    | MatchDocument,
    Field(discriminator="kind"),
]


class AnyDocument(Given, RootModel[AnyKind]):
    @classmethod
    def model_json_schema(cls, *args: Any, **more: Any) -> dict[str, Any]:
        return super().model_json_schema(*args, **{**more, "mode": "serialization"})


class Travelled(Answer):
    document: AnyKind
    label: str


class OpenedTake(Answer):
    take: TakeDocument
    sources: dict[str, SourceOut]
    character: CharacterDocument | None
    cast: CastDocument | None
    join: JoinDocument


class LayoutRows(RootModel[list[LayoutDocument]]):
    @classmethod
    def model_json_schema(cls, *args: Any, **more: Any) -> dict[str, Any]:
        return super().model_json_schema(*args, **{**more, "mode": "serialization"})


class DotsRows(RootModel[list[DotsDocument]]):
    pass


class StackProposal(Answer):
    tidy: Tidy
    reasons: dict[str, str]
