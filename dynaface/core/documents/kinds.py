"""The kinds of documents by name, and reading a stored body of any of them."""

from collections.abc import Mapping
from typing import Any

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
from dynaface.core.documents.model.record import Body, parse
from dynaface.core.documents.model.shot import ClipBody, ShotBody
from dynaface.core.documents.model.stack import StackBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.documents.model.words import WordsBody
from dynaface.core.documents.upgrade import upgraded
from dynaface.core.errors import InputError

KINDS: dict[str, type[Body]] = {
    k.kind: k
    for k in (
        TakeBody,
        CharacterBody,
        CardBody,
        CastBody,
        JoinBody,
        StackBody,
        LayoutBody,
        DotsBody,
        ShotBody,
        ClipBody,
        LayerBody,
        WordsBody,
        PoseBody,
        ProfilesBody,
        PresetsBody,
        LineUpBody,
        MatchBody,
        BodyStackBody,
        MeasuresBody,
        FeedProfileBody,
    )
}


def read_body(kind: str, plain: Mapping[str, Any]) -> Body:
    """The body of a document of this kind, brought up to the newest schema; raises InputError with the path."""
    if kind not in KINDS:
        raise InputError(f"there is no kind of document {kind!r}")
    return parse(KINDS[kind], upgraded(kind, plain), f"the body of a {kind}")
