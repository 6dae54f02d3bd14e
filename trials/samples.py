"""Sound files of every kind that is brought in, small, with the reader of each."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Any

from dynaface.core.cast.sheet import CastSheet, parse_sheet
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.curves.keys import parse_keys
from dynaface.core.dots.dot import parse_dots
from dynaface.core.markers.layout import parse_layout
from dynaface.core.solve.tacks import parse_tack
from dynaface.core.tidy.stack import parse_stack
from dynaface.formats.catalogue import FORMATS
from dynaface.formats.entries import body_lines, bvh, c3d, curve_table, marker_table, notes_sheet, wav
from dynaface.formats.gltf.clips import read_clips
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.gltf.prop import describe_prop, read_prop
from dynaface.formats.json_file import read_json, read_table
from dynaface.formats.sheet_file import read_sheet, write_sheet
from dynaface.formats.table.cells import read_cells
from dynaface.formats.table.reading import to_recording
from dynaface.formats.table.recipe import parse_recipe
from dynaface.formats.table.understand import propose
from dynaface.sims.body_suit import move
from tests.formats.test_gltf_reading import Document, archive
from tests.formats.test_props import moving_prop
from tests.makers import channels, markers, noise_film, tone, zipped

Kind = str  # "text", "binary", "zip", "glb", "json": how it is damaged


@dataclass(frozen=True)
class Sample:
    """The bytes of a sound file, how it is read, and which kind of damage fits it."""

    data: bytes
    read: Callable[[bytes], Any]
    kind: Kind


def _of_format(name: str) -> Callable[[bytes], Any]:
    def read(data: bytes) -> Any:
        return FORMATS[name].check(FORMATS[name].read(data))

    return read


def _shapes(data: bytes) -> Any:
    return read_geometry(data), read_clips(data)


def _prop(data: bytes) -> Any:
    return describe_prop(read_prop(data))


def _recipe(data: bytes) -> Any:
    cells = read_cells(curve_table.write_table(channels()))
    return to_recording(cells, parse_recipe(read_table(data, "recipe.json"), propose(cells)))


def _json(parse: Callable[[Any], Any]) -> Callable[[bytes], Any]:
    return lambda data: parse(read_json(data, "file.json"))


def _text(value: Any) -> bytes:
    return json.dumps(value, indent=1).encode()


LAYOUT = {"places": {"m1": "chin", "m2": "nose tip"}, "neutral": [0, 30], "samples": {"jawOpen": 40}, "off": ["m1"],
          "drives": {"jawOpen": {"from": "m1", "to": "m2", "reach": 12}}}  # fmt: skip
DOTS = {"dynafaceDots": 1, "size": [640, 480], "fov": 60.0, "tolerance": 0.09, "neutral": [0, 10], "samples": {"jawOpen": 12},
        "dots": {"d1": {"place": "chin", "at": [10, 20], "colour": [200, 40, 30], "radius": 4.0}}, "drives": {},
        "moves": "neither"}  # fmt: skip
STACK = {"dynafaceStack": 1, "steps": [{"step": "even out time", "on": True, "rate": "60"}, {"step": "smooth", "on": True, "ramp": 2,
         "amount": {"lips": 0.4}, "places": [{"channels": ["jawOpen"], "first": 3, "last": 9}]}]}  # fmt: skip
KEYS = [[0.0, 0.1, 0.0, 0.0, "flat"], [12.0, 0.4, 0.01, 0.0, "free", 0.4, 0.5]]
TACK = {"frame": 3, "span": 6, "shape": "jawOpen", "value": 0.5}
SHEET = parse_sheet({"regionStrength": {"lips": 0.8}, "matches": {"gawp": "jawOpen"}})
RECIPE = {"rate": "60", "time_column": "time", "time_unit": "seconds", "percent": False, "columns": {"jawOpen": "jawOpen"},
          "flipped": ["headTurn"], "timecode_rate": "60"}  # fmt: skip


@cache
def samples() -> dict[str, Sample]:
    """By name; every format of the catalogue is among them."""
    glb = Document().face(("jawOpen", "Eye_Blink_L")).animate([0, 0.5, 1], [0, 0, 1, 0.5, 0, 1]).glb()
    files = {
        "curve table": (curve_table.write_table(channels()), "text"), "wav": (wav.write(tone(0.2)), "binary"),
        "body lines": (body_lines.write(move(0.2, None, 1)), "text"),
        "bvh": (bvh.write(move(0.5, parse_timecode("01:00:00:00", bvh.STANDARD_RATES[12]), 1)), "text"), "gltf": (glb, "glb"),
        "c3d": (c3d.write(markers()), "binary"), "marker table": (marker_table.write(markers()), "text"),
        "gltf archive": (archive(Document().face().apart()), "zip"), "video": (noise_film(), "binary"),
        "numbered pictures": (zipped(), "zip"),
        "notes sheet": (notes_sheet.write((notes_sheet.Note("4A / 1", True, "the pause"), notes_sheet.Note("4B / 2", None, ""))), "text"),
    }  # fmt: skip
    assert set(files) == set(FORMATS)
    return {name: Sample(data, _of_format(name), kind) for name, (data, kind) in files.items()} | {
        "shapes of a gltf": Sample(glb, _shapes, "glb"),
        "prop": Sample(moving_prop(), _prop, "glb"),
        "sheet": Sample(write_sheet(SHEET, "Mara Quill", "odile"), read_sheet, "json"),
        "empty sheet": Sample(write_sheet(CastSheet()), read_sheet, "json"),
        "layout": Sample(_text(LAYOUT), _json(parse_layout), "json"), "dots": Sample(_text(DOTS), _json(parse_dots), "json"),
        "stack": Sample(_text(STACK), _json(parse_stack), "json"), "keys": Sample(_text(KEYS), _json(parse_keys), "json"),
        "tack": Sample(_text(TACK), _json(parse_tack), "json"), "recipe": Sample(_text(RECIPE), _recipe, "json"),
    }  # fmt: skip
