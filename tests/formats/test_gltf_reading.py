"""glTF in all its forms, whole, damaged and hostile; animated shapes as clips; sheets as files."""

import base64
import io
import json
import struct
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dynaface.core.cast.sheet import describe_sheet, parse_sheet
from dynaface.core.errors import DynafaceError, InputError
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.clips import read_clips
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.gltf.pack import pack
from dynaface.formats.sheet_file import read_sheet, write_sheet

POINTS = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
MOVED = np.array([[0, 0, 0.1], [0, 0, 0], [0, 0.2, 0]], np.float32)


class Document:
    """A small glTF that is put together by hand, so that every field can be made wrong."""

    def __init__(self):
        self.blob = b""
        self.json = {"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [], "meshes": [],
                     "accessors": [], "bufferViews": []}  # fmt: skip

    def view(self, raw):
        self.json["bufferViews"].append({"buffer": 0, "byteOffset": len(self.blob), "byteLength": len(raw)})
        self.blob += raw + bytes(-len(raw) % 4)
        return len(self.json["bufferViews"]) - 1

    def accessor(self, array, kind="VEC3", component=5126, **more):
        view = self.view(np.ascontiguousarray(array).tobytes())
        count = array.shape[0]
        self.json["accessors"].append(
            {"bufferView": view, "componentType": component, "count": count, "type": kind, **more}
        )
        return len(self.json["accessors"]) - 1

    def face(self, targets=("jawOpen",), **more):
        at = self.accessor(POINTS)
        moved = [{"POSITION": self.accessor(MOVED)} for _ in targets]
        primitive = {"attributes": {"POSITION": at}, "targets": moved, **more}
        self.json["meshes"].append({"primitives": [primitive], "extras": {"targetNames": list(targets)}})
        self.json["nodes"].append({"name": "face", "mesh": len(self.json["meshes"]) - 1})
        return self

    def animate(self, times, values, way="LINEAR", name="line"):
        held = {"input": self.accessor(np.array(times, np.float32)[:, None], "SCALAR"),
                "output": self.accessor(np.array(values, np.float32).reshape(-1, 1), "SCALAR"), "interpolation": way}  # fmt: skip
        self.json.setdefault("animations", []).append(
            {"name": name, "samplers": [held], "channels": [{"sampler": 0, "target": {"node": 0, "path": "weights"}}]})  # fmt: skip
        return self

    def glb(self):
        self.json["buffers"] = [{"byteLength": len(self.blob)}]
        text = json.dumps(self.json).encode()
        text += b" " * (-len(text) % 4)
        body = (
            struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(self.blob), b"BIN\0") + self.blob
        )
        return struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body

    def apart(self, uri="face.bin", folder="rig/"):
        plain = {**self.json, "buffers": [{"byteLength": len(self.blob), "uri": uri}]}
        return {f"{folder}face.gltf": json.dumps(plain).encode(), f"{folder}face.bin": self.blob}


def archive(files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, data in files.items():
            made.writestr(name, data)
    return out.getvalue()


def offsets(data, target="jawOpen"):
    return read_geometry(data).meshes[0].offsets[target]


def test_a_gltf_with_its_files_in_an_archive_or_inside_itself_is_the_same_character():
    made = Document().face()
    np.testing.assert_array_equal(offsets(pack(archive(made.apart()))), offsets(made.glb()))
    inside = Document().face()
    uri = "data:application/octet-stream;base64," + base64.b64encode(inside.blob).decode()
    plain = json.dumps({**inside.json, "buffers": [{"byteLength": len(inside.blob), "uri": uri}]}).encode()
    np.testing.assert_array_equal(offsets(pack(plain)), MOVED)
    assert read_character(pack(plain)).targets == ("jawOpen",)


@pytest.mark.parametrize(
    "uri",
    [
        "../../etc/passwd",
        "/etc/passwd",
        "https://example.org/a.bin",
        "C:/a.bin",
        "..\\a.bin",
        "%2e%2e/face.bin",
        "other.bin",
        7,
    ],
)
def test_paths_that_lead_elsewhere_are_refused(uri):
    with pytest.raises(InputError):
        pack(archive(Document().face().apart(uri)))


def test_archives_that_are_not_one_character_are_refused():
    both = {**Document().face().apart(), "rig/second.gltf": b"{}"}
    for files, says in ((both, "2 .gltf"), ({"a.gltf": b"{"}, "no JSON"), ({"a.gltf": b"[]"}, "no glTF document"),
                        ({"a.gltf": b'{"buffers": [{"byteLength": 9, "uri": "data:,ab"}]}'}, "says it has 9"),
                        ({"a.gltf": b'{"buffers": 3}'}, "not what glTF says")):  # fmt: skip
        with pytest.raises(InputError, match=says):
            pack(archive(files))
    with pytest.raises(InputError):
        pack(archive(Document().face().apart())[:80])


def test_quantised_sparse_and_interleaved_values_are_read():
    made = Document()
    quantised = np.array([[0, 0, 32767], [0, -32768, 0], [0, 0, 0]], np.int16)
    made.json["accessors"].append({"bufferView": made.view(np.pad(quantised, ((0, 0), (0, 1))).tobytes()), "componentType": 5122,
                                   "count": 3, "type": "VEC3", "normalized": True})  # fmt: skip
    made.json["bufferViews"][0]["byteStride"] = 8
    rows, values = (
        made.view(np.array([2], np.uint16).tobytes()),
        made.view(np.array([[0, 0.5, 0]], np.float32).tobytes()),
    )
    made.json["accessors"].append({"componentType": 5126, "count": 3, "type": "VEC3", "sparse": {
        "count": 1, "indices": {"bufferView": rows, "componentType": 5123}, "values": {"bufferView": values}}})  # fmt: skip
    made.json["meshes"] = [{"primitives": [{"attributes": {"POSITION": 0}, "targets": [{"POSITION": 1}]}]}]
    made.json["nodes"] = [{"mesh": 0, "scale": [2, 2, 2]}]
    made.json["extensionsRequired"] = ["KHR_mesh_quantization"]
    (mesh,) = read_geometry(made.glb()).meshes
    np.testing.assert_allclose(mesh.points, [[0, 0, 2], [0, -2, 0], [0, 0, 0]], atol=1e-6)
    np.testing.assert_allclose(mesh.offsets["target0"], [[0, 0, 0], [0, 0, 0], [0, 1, 0]])


def test_strips_and_fans_are_taken_apart():
    for mode, faces in ((4, [[0, 1, 2]]), (5, [[0, 1, 2]]), (6, [[0, 1, 2]]), (1, [])):
        (mesh,) = read_geometry(Document().face(mode=mode).glb()).meshes
        assert mesh.triangles.tolist() == faces


@pytest.mark.parametrize(
    "name", ["KHR_draco_mesh_compression", "EXT_meshopt_compression", "KHR_texture_basisu", "ACME_magic"]
)
def test_what_cannot_be_read_is_refused_by_name(name):
    made = Document().face()
    made.json["extensionsRequired"] = [name]
    with pytest.raises(InputError, match=name):
        read_character(made.glb())


def _set(path, value):
    def change(document):
        at = document
        *way, last = path
        for step in way:
            at = at[step]
        at[last] = value

    return change


HOSTILE = {
    "a huge count": _set(("accessors", 0, "count"), 2**40), "a count below nothing": _set(("accessors", 0, "count"), -1),
    "a count with no data": lambda d: (d["accessors"][0].pop("bufferView"), d["accessors"][0].update(count=2**31)),
    "an offset beyond the end": _set(("bufferViews", 0, "byteOffset"), 10**9),
    "an offset before the start": _set(("bufferViews", 0, "byteOffset"), -8),
    "a stride of nothing": _set(("bufferViews", 0, "byteStride"), 1), "a huge stride": _set(("bufferViews", 0, "byteStride"), 10**8),
    "another buffer": _set(("bufferViews", 0, "buffer"), 3), "no such view": _set(("accessors", 0, "bufferView"), 99),
    "an unknown component": _set(("accessors", 0, "componentType"), 9999), "an unknown type": _set(("accessors", 0, "type"), "VEC9"),
    "no such mesh": _set(("nodes", 0, "mesh"), 7), "no such accessor": _set(("meshes", 0, "primitives", 0, "attributes", "POSITION"), 50),
    "a node that is its own child": _set(("nodes", 0, "children"), [0]),
    "nodes in a circle": lambda d: d["nodes"].extend([{"children": [2]}, {"children": [1]}]),
    "a child with two parents": lambda d: d["nodes"].extend([{"children": [3]}, {"children": [3]}, {}]),
    "targets of another length": _set(("accessors", 1, "count"), 2),
    "a skin without joints": lambda d: (d.update(skins=[{"joints": [44]}]), d["nodes"][0].update(skin=0)),
    "words for a number": _set(("accessors", 0, "count"), "many"),
    "a hundred thousand nodes": lambda d: d["nodes"].extend({} for _ in range(100_000)),
    "vertices that are not numbers": None,
}  # fmt: skip


@pytest.mark.parametrize("fault", sorted(HOSTILE))
def test_damaged_and_hostile_files_are_refused_with_a_message(fault):
    made = Document().face()
    if HOSTILE[fault] is None:
        made.blob = np.full(len(made.blob) // 4, np.nan, np.float32).tobytes()
    else:
        HOSTILE[fault](made.json)
    data = made.glb()
    with pytest.raises(InputError) as refused:
        read_character(data), read_geometry(data)
    assert len(str(refused.value)) > 15


@settings(max_examples=60)
@given(st.data())
def test_a_file_with_bytes_changed_is_read_or_refused_never_worse(data):
    whole = bytearray(Document().face(("jawOpen", "grin")).animate([0, 1], [0, 0, 1, 1]).glb())
    for _ in range(data.draw(st.integers(1, 6))):
        whole[data.draw(st.integers(12, len(whole) - 1))] = data.draw(st.integers(0, 255))
    try:
        read_character(bytes(whole))
        read_geometry(bytes(whole))
        read_clips(bytes(whole))
    except DynafaceError as error:
        assert str(error)


def test_expression_tables_and_eye_bones_of_avatar_extensions_are_read():
    made = Document().face(("Fcl_001", "Fcl_002", "Fcl_003"))
    made.json["nodes"] += [{"name": "bone_a"}, {"name": "bone_b"}]
    made.json["nodes"][0]["children"] = [1, 2]
    made.json["skins"] = [{"joints": [1, 2]}]
    bind = [{"node": 0, "index": 0, "weight": 1.0}]
    made.json["extensions"] = {"VRMC_vrm": {"expressions": {"preset": {"aa": {"morphTargetBinds": bind}}, "custom": {
        "JawOpen": {"morphTargetBinds": [{"node": 0, "index": 1, "weight": 1.0}]}, "broken": {"morphTargetBinds": [{"node": 9}]}}},
        "humanoid": {"humanBones": {"leftEye": {"node": 1}, "rightEye": {"node": 2}}}}}  # fmt: skip
    made.json["extensionsUsed"] = ["VRMC_vrm"]
    character = read_character(made.glb())
    assert character.declared == {"Fcl_001": "aa", "Fcl_002": "JawOpen"}
    assert character.named("Fcl_002").shape == "jawOpen"
    assert (character.eye_joint("left"), character.eye_joint("right")) == ("bone_a", "bone_b")
    made.json["extensions"] = {"VRM": {"blendShapeMaster": {"blendShapeGroups": [
        {"presetName": "blink_l", "binds": [{"mesh": 0, "index": 2, "weight": 100}]}]}}}  # fmt: skip
    assert read_character(made.glb()).declared == {"Fcl_003": "blink_l"}


def test_animated_shapes_come_in_as_curves():
    made = Document().face(("jawOpen", "mouthSmile_L", "wart"))
    made.animate(np.arange(5) / 24, [[i / 4, 0.5, 1] for i in range(5)]).animate(
        [0, 1], [[0, 0, 0], [1, 1, 0]], "STEP", "held"
    )
    first, second = read_clips(made.glb(), 100)
    assert (first.name, first.channels.frames, float(first.channels.rate)) == ("line", 5, 24.0)
    np.testing.assert_allclose(first.channels.column("jawOpen"), np.arange(5) / 4, atol=1e-6)
    np.testing.assert_allclose(first.channels.column("mouthSmileLeft"), 0.5)
    assert first.unmatched == ("wart",)
    assert first.channels.timecode.frames == 100
    assert set(np.unique(second.channels.column("jawOpen"))) == {0.0, 1.0}


def test_weights_of_a_hundred_are_noticed_and_cubics_are_followed():
    percent = Document().face().animate(np.arange(3) / 30, [0, 40, 80])
    (clip,) = read_clips(percent.glb())
    np.testing.assert_allclose(clip.channels.column("jawOpen"), [0, 0.4, 0.8], atol=1e-6)
    assert any("0..100" in n for n in clip.notes)
    times = np.array([0, 0.5, 1.0])
    keys = [[0, 0, 0], [0, 1, 0], [0, 0, 0]]  # in-tangent, value, out-tangent
    (cubic,) = read_clips(Document().face().animate(times, keys, "CUBICSPLINE").glb())
    assert cubic.channels.column("jawOpen").max() == pytest.approx(1)


@pytest.mark.parametrize("times", [[0, 0], [1, 0.5], [0]])
def test_animations_without_time_are_refused(times):
    with pytest.raises(InputError):
        read_clips(Document().face().animate(times, [0] * len(times)).glb())
    with pytest.raises(InputError, match="no animation"):
        read_clips(Document().face().glb())


def test_a_sheet_comes_back_from_its_file():
    sheet = parse_sheet(
        {
            "matches": {"gawp": {"jawOpen": 0.9}},
            "joints": {"jaw:jawOpen": {"most": 12}},
            "wayStrength": {"lips up": 1.1},
        }
    )
    assert read_sheet(write_sheet(sheet, "Mara", "Brindle")) == sheet
    assert describe_sheet(read_sheet(b'{"regionStrength": {"lips": 0.5}}'))["regionStrength"] == {"lips": 0.5}


@pytest.mark.parametrize(
    "bad",
    [b"", b"[1]", b"{", b'{"dynafaceSheet": 9}', b'{"dynafaceSheet": 1, "colour": 2}', b"\xff\xfe{", b" " * 5_000_000],
)
def test_what_is_no_sheet_is_refused(bad):
    with pytest.raises(InputError):
        read_sheet(bad)
