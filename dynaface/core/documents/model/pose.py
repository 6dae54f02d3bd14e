"""A pose of the face that is kept by name in a production."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from dynaface.core import checks
from dynaface.core.documents.model.record import Body, Key, Name
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES

POSED = (*SHAPES, *HEAD_ANGLES)
MAX_PICTURE = 40_000  # letters
Picture = Annotated[
    str, Field(max_length=MAX_PICTURE, pattern=r"^(data:image/(png|jpeg|webp);base64,[A-Za-z0-9+/=]+)?$")
]


class PoseBody(Body):
    """values: channel -> weight, or degrees of the head; channels that it does not name are left as they are; picture: of a character in
    this pose, as a data URL, "" where nobody took one.
    """

    kind: ClassVar[str] = "pose"

    schema_number: Literal[1] = Field(default=1, alias="schema")
    name: Name
    values: dict[Key, Annotated[float, Field(ge=-90, le=90)]]
    picture: Picture = ""

    @model_validator(mode="after")
    def _sound(self) -> "PoseBody":
        for channel in self.values:
            checks.one_of("channel", channel, POSED)
        return self
