"""The header of a table of labelled 3D points, which tells it from other tables: three columns a marker, x, y and z."""

import re

FEWEST = 3  # markers
_AXIS = re.compile(r"^(?P<label>.+?)[ ._:/-]\(?(?P<axis>[xyzXYZ])\)?$")


def marker_columns(header: tuple[str, ...]) -> dict[str, tuple[int, int, int]]:
    """label -> columns of its x, y and z, of those labels that have all three."""
    found: dict[str, dict[str, int]] = {}
    for column, name in enumerate(header):
        match = _AXIS.match(name.strip().strip('"'))
        if match:
            found.setdefault(match["label"], {})[match["axis"].lower()] = column
    return {label: (axes["x"], axes["y"], axes["z"]) for label, axes in found.items() if len(axes) == 3}


def marker_header(line: str) -> bool:
    """Whether a first line is that of a table of markers."""
    delimiter = max("\t;,", key=line.count)
    return len(marker_columns(tuple(line.split(delimiter)))) >= FEWEST
