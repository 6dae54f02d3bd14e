"""What tests of solving share."""

import pytest

from dynaface.core.solve.frame import face_model
from dynaface.core.solve.jaw import jaw_arc
from dynaface.core.solve.reference import layout
from dynaface.formats.head_file import general_head, landmark_places


@pytest.fixture(scope="module")
def model():
    """The general head as a face's model."""
    head = general_head()
    return face_model(
        head.points,
        head.shapes,
        jaw_arc(head.points, head.shapes, landmark_places()),
        layout(head, head.points),
    )
