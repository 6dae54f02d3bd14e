"""The character document: a name and the source of its rig, with older versions of it."""

from typing import ClassVar, Literal

from pydantic import Field

from dynaface.core.documents.model.record import Body, Identity, Name, Notes, Part, Reference

MAX_VERSIONS = 100


class RigVersion(Part):
    """An older rig: its source and the name of its file."""

    source: Identity
    file: str = Field(default="", max_length=200)


class CharacterBody(Body):
    """A character. source: the rig that is used; versions: the rigs before it, oldest first."""

    kind: ClassVar[str] = "character"

    schema_number: Literal[1] = Field(default=1, alias="schema")
    name: Name
    source: Identity
    notes: Notes = ""
    versions: list[RigVersion] = Field(default=[], max_length=MAX_VERSIONS)

    def references(self) -> tuple[Reference, ...]:
        """Its rigs."""
        older = (
            Reference(f"versions/{n}/source", "source", "character", v.source) for n, v in enumerate(self.versions)
        )
        return (Reference("source", "source", "character", self.source), *older)
