"""The parts of a glTF document that we read, as the standard has them: kinds of fields, before anything is made of them."""

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dynaface.core.errors import InputError

Number = Annotated[int, Field(ge=0, le=1 << 40, strict=True)]
Floats = list[Annotated[float, Field(allow_inf_nan=False)]]


class _Part(BaseModel):
    model_config = ConfigDict(extra="allow")


class _Named(_Part):
    name: str | None = None


class _Indices(_Part):
    bufferView: Number
    byteOffset: Number | None = None
    componentType: Number


class _Values(_Part):
    bufferView: Number
    byteOffset: Number | None = None


class _Sparse(_Part):
    count: Number
    indices: _Indices
    values: _Values


class _Accessor(_Named):
    bufferView: Number | None = None
    byteOffset: Number | None = None
    componentType: Number
    normalized: bool | None = None
    count: Number
    type: str
    sparse: _Sparse | None = None


class _View(_Named):
    buffer: Number
    byteOffset: Number | None = None
    byteLength: Number
    byteStride: Number | None = None


class _Primitive(_Part):
    attributes: Annotated[dict[str, Number], Field(min_length=1)]
    indices: Number | None = None
    mode: Number | None = None
    targets: list[dict[str, Number]] | None = None


class _Mesh(_Named):
    primitives: list[_Primitive]
    weights: Floats | None = None


class _Node(_Named):
    mesh: Number | None = None
    skin: Number | None = None
    children: list[Number] | None = None
    matrix: Annotated[Floats, Field(min_length=16, max_length=16)] | None = None
    rotation: Annotated[Floats, Field(min_length=4, max_length=4)] | None = None
    translation: Annotated[Floats, Field(min_length=3, max_length=3)] | None = None
    scale: Annotated[Floats, Field(min_length=3, max_length=3)] | None = None


class _Skin(_Named):
    joints: list[Number]


class _Target(_Part):
    node: Number | None = None
    path: str


class _Channel(_Part):
    sampler: Number
    target: _Target


class _Sampler(_Part):
    input: Number
    output: Number
    interpolation: str | None = None


class _Animation(_Named):
    channels: list[_Channel]
    samplers: list[_Sampler]


class _Document(_Part):
    asset: dict[str, Any] = {}
    nodes: list[_Node] = []
    meshes: list[_Mesh] = []
    skins: list[_Skin] = []
    accessors: list[_Accessor] = []
    bufferViews: list[_View] = []
    buffers: list[_Named] = []
    animations: list[_Animation] = []
    materials: list[_Named] = []
    textures: list[_Part] = []
    images: list[_Named] = []
    samplers: list[_Part] = []
    scenes: list[_Named] = []
    cameras: list[_Named] = []
    scene: Number | None = None
    extensionsUsed: list[str] = []
    extensionsRequired: list[str] = []
    extensions: dict[str, Any] | None = None


def check_kinds(document: dict[str, Any]) -> None:
    """Raises InputError with the place of the first field that is not of the kind that glTF says."""
    try:
        _Document.model_validate(document)
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        raise InputError(f"the file is no sound glTF: {first['msg']}", where="/".join(map(str, first["loc"]))[:200],
                         hint="Export it again") from None  # fmt: skip
