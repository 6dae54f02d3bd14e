"""The commands about characters: `dynaface character`."""

import argparse
import json

from dynaface.core.cast.health import examine_character
from dynaface.core.errors import InputError
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.geometry import read_geometry


def character(options: argparse.Namespace) -> None:
    """Prints the health report of a character."""
    data = options.file.read_bytes()
    try:
        health = examine_character(read_character(data, options.file.stem), read_geometry(data))
    except InputError as error:
        raise type(error)(f"{options.file.name}: {error.message}", where=error.where, hint=error.hint) from None
    if options.json:
        print(json.dumps(health.describe(), indent=1))
        return
    print(f"{len(health.present)} of the 52 shapes, lengths in {health.unit or 'no known unit'}, {health.up} is up")
    for part, joints in health.joints.items():
        print(f"{part} joints: {', '.join(joints)}")
    for finding in health.findings:
        print(f"{finding.kind}: {finding.words}" + (f" ({', '.join(finding.meshes)})" if finding.meshes else ""))
    if not health.findings:
        print("nothing is wrong with it")
