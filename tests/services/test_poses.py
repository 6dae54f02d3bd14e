"""Poses: kept from a frame of a role, shared by a production; the demo's own."""

import pytest

from dynaface.core.documents.model.pose import POSED
from dynaface.core.errors import DynafaceError, InputError, NotFoundError
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.demo.poses import NEUTRAL, POSES, both_sides, seed_poses
from dynaface.services.edit_document import edit_document
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.poses import list_poses, save_pose
from tests.services.evaluated import put
from tests.services.test_shots import first_role, odile, shot, takes  # noqa: F401

PICTURE = "data:image/webp;base64,UklGRg=="


def test_a_pose_is_what_stands_at_a_frame(mara, production, shot):  # noqa: F811
    role = first_role(shot)
    pose = save_pose(mara, shot.id, role, 120, "listening", picture=PICTURE)
    result = prepare_role(mara, shot.id, role).graph.tidied.result(mara.cache)
    for channel, value in pose.body.values.items():
        assert value == pytest.approx(float(result.column(channel)[120]), abs=1e-4)
    assert [p.id for p in list_poses(mara, production)] == [pose.id]
    assert pose.body.picture == PICTURE


def test_a_pose_of_some_regions_names_no_others(mara, shot):  # noqa: F811
    pose = save_pose(mara, shot.id, first_role(shot), 120, "lips", ["lips", "jaw"])
    assert {REGION[c] for c in pose.body.values} == {"lips", "jaw"}


def test_a_pose_is_named_anew_and_put_away(mara, production, shot):  # noqa: F811
    pose = save_pose(mara, shot.id, first_role(shot), 10, "one")
    named = edit_document(mara, pose.id, pose.version, "name", [put("name", "two")])
    assert [p.body.name for p in list_poses(mara, production)] == ["two"]
    edit_document(mara, pose.id, named.version, "put away", [put("archived", True)])
    assert list_poses(mara, production) == []
    save_pose(mara, shot.id, first_role(shot), 10, "two")  # its name is free again


@pytest.mark.parametrize(
    ("given", "kind"),
    [({"name": " "}, InputError), ({"frame": 10**7}, InputError), ({"regions": ["hair"]}, InputError), ({"role": "nobody"}, NotFoundError),
     ({"picture": "javascript:alert(1)"}, InputError), ({"picture": "data:text/html;base64,AAAA"}, InputError), ({"picture": "data:image/png;base64," + "A" * 40_000}, InputError)],
)  # fmt: skip
def test_what_is_no_pose_is_refused(mara, production, shot, given, kind):  # noqa: F811
    asked = {"role": first_role(shot), "frame": 5, "name": "x", **given}
    with pytest.raises(kind):
        save_pose(mara, shot.id, **asked)
    assert list_poses(mara, production) == []


def test_two_poses_have_no_one_name(mara, shot):  # noqa: F811
    save_pose(mara, shot.id, first_role(shot), 5, "Sour")
    with pytest.raises(DynafaceError, match="already"):
        save_pose(mara, shot.id, first_role(shot), 5, "sour")


def test_the_demo_begins_with_a_neutral_and_twenty_others(mara, production):
    seed_poses(mara, production)
    found = {p.body.name: p.body.values for p in list_poses(mara, production)}
    assert len(found) == 21
    assert not any(found[NEUTRAL].values())
    assert all(set(v) == set(POSED) for v in found.values())
    for name, said in POSES.items():
        for channel, value in both_sides(said).items():
            assert abs(value) <= (15 if channel in HEAD_ANGLES else 1)
            assert found[name][channel] == value
