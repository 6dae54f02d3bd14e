"""Line-ups: recordings of takes on one clock, by count, by what they heard and saw, by hand; put to use in takes and shots."""

from fractions import Fraction as Fr

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.clock.timecode import from_seconds, parse_timecode
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.words import WordsBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.jobs.follow_jobs import list_jobs
from dynaface.services.lineup.lay_on_shot import lay_on_shot
from dynaface.services.lineup.open_lineup import choose_takes, list_lineups, make_lineup, open_lineup
from dynaface.services.lineup.place_recordings import place_by_timecode, request_placing
from dynaface.services.lineup.use_lineup import shot_of_lineup, use_lineup
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.snapshot import words_key
from dynaface.services.take.apply_notes import apply_notes
from dynaface.services.take.import_take import attach_source, import_take
from dynaface.services.take.open_take import open_take, see_take
from dynaface.services.work import add_document
from tests.conftest import stored
from tests.services.evaluated import put

DEMO = ASSETS / "demo"


def demo(work, name):
    return stored(work, (DEMO / name).read_bytes(), name)


def table(work, name, label="", seconds=4, rate=60):
    """A small curve table whose first row has a count."""
    rows = ["frame,time,timecode,jawOpen,headTurnDeg"]
    for f in range(seconds * rate):
        rows.append(f"{f},{f / rate:.6f},{label if f == 0 else ''},{abs(np.sin(f / 9)):.4f},{10 * np.sin(f / 31):.3f}")
    return stored(work, "\n".join(rows).encode(), name)


@pytest.fixture
def lamp(mara, production):
    files = [demo(mara, f"mara_lamp{n}") for n in (".csv", ".wav", "_body.bvh")]
    return import_take(mara, production, "4A / 1", "Mara Quill", files)


@pytest.fixture
def bare(mara, production):
    """A take whose table has no count."""
    return import_take(mara, production, "9", "Ivo Thackett", [table(mara, "bare.csv")])


@pytest.fixture
def lineup(mara, production, lamp, bare):
    return make_lineup(mara, production, "the lamp", [lamp.id, bare.id])


def rows(work, lineup):
    return {(r["slate"], r["part"]): r for r in open_lineup(work, lineup.id)["rows"]}


def test_it_begins_with_every_recording_of_its_takes_and_none_is_placed(mara, production, lineup):
    found = rows(mara, lineup)
    assert set(found) == {("4A / 1", "face"), ("4A / 1", "body"), ("4A / 1", "sound"), ("9", "face")}
    assert all(r["start"] is None and r["how"] == "" for r in found.values())
    assert list_lineups(mara, production)[0]["sources"] == 4


def test_one_action_places_all_that_have_a_count_and_the_sounds_of_their_takes(mara, lineup, lamp):
    place_by_timecode(mara, lineup.id, lineup.version)
    found = rows(mara, lineup)
    face, body, sound = (found["4A / 1", p] for p in ("face", "body", "sound"))
    assert {r["how"] for r in (face, body)} == {"timecode"}
    assert face["start"] - body["start"] == pytest.approx(3.0, abs=0.02)  # the demo's body began three seconds before
    assert min(face["start"], body["start"]) < 1 / 60
    assert sound["how"] == "take"
    assert sound["start"] - face["start"] == pytest.approx(see_take(mara, lamp.id).take.body.sound_offset, abs=1e-6)
    assert found["9", "face"]["start"] is None
    assert body["at"] == open_lineup(mara, lineup.id)["lineup"].body.timecode
    undo(mara, [lineup.id])
    assert all(r["start"] is None for r in rows(mara, lineup).values())


def test_a_recorder_that_counts_is_placed_by_its_count(mara, production, lineup, lamp):
    face = open_lineup(mara, lineup.id)["rows"][0]
    code = parse_timecode(face["timecode"], Fr(60))
    begins = from_seconds(code.seconds - 1.25, Fr(24_000, 1001))
    sound = Sound(np.zeros((48_000 * 4, 1), np.float32), 48_000, begins)
    room = import_take(mara, production, "4A / 1 room", "", [stored(mara, wav.write(sound), "room.wav")])
    made = make_lineup(mara, production, "with the room", [lamp.id, room.id])
    place_by_timecode(mara, made.id, made.version)
    found = rows(mara, made)
    heard = found["4A / 1 room", "sound"]
    assert (heard["how"], heard["timecodeRate"]) == ("timecode", "24000/1001")
    assert found["4A / 1", "face"]["start"] - heard["start"] == pytest.approx(1.25, abs=1e-3)


def test_a_start_on_a_notes_sheet_counts_where_a_recording_has_none(mara, production, lineup, lamp):
    sheet = "slate,start,rate\n9,10:04:12:12,24\n"
    assert apply_notes(mara, production, stored(mara, sheet.encode(), "day.csv")["media"], "day.csv")["changed"] == 1
    place_by_timecode(mara, lineup.id, lineup.version)
    found = rows(mara, lineup)["9", "face"]
    assert (found["how"], found["noted"], found["timecode"], found["timecodeRate"]) == (
        "notes",
        True,
        "10:04:12:12",
        "24",
    )
    assert found["at"].startswith("10:04:12")


def test_a_start_that_is_no_count_is_refused_with_its_line(mara, production, lineup):
    sheet = stored(mara, b"slate,start\n9,soon\n", "day.csv")
    with pytest.raises(InputError, match="the start is 'soon'"):
        apply_notes(mara, production, sheet["media"], "day.csv")


def test_one_alone_is_placed_against_the_count_that_stands(mara, production, lineup, lamp):
    placed = place_by_timecode(mara, lineup.id, lineup.version)
    key = f"{lamp.id} face"
    before = placed.body.sources[key].at
    moved = edit_document(
        mara, lineup.id, placed.version, "nudge", [put(f"sources/{key}/start", "7"), put(f"sources/{key}/how", "hand")]
    )
    again = place_by_timecode(mara, lineup.id, moved.version, [key])
    assert again.body.sources[key].at == before
    assert again.body.timecode == placed.body.timecode


def test_what_does_not_overlap_is_named(mara, lineup, lamp, bare):
    placed = place_by_timecode(mara, lineup.id, lineup.version)
    edit_document(mara, lineup.id, placed.version, "far", [put(f"sources/{bare.id} face/start", "500")])
    found = rows(mara, lineup)
    assert set(found["9", "face"]["apart"]) == {f"{lamp.id} {p}" for p in ("face", "body", "sound")}
    assert found["4A / 1", "face"]["apart"] == [f"{bare.id} face"]


def test_without_any_count_it_says_what_else_can_be_done(mara, production, bare):
    alone = make_lineup(mara, production, "bare", [bare.id])
    with pytest.raises(InputError, match="none of these recordings has a timecode"):
        place_by_timecode(mara, alone.id, alone.version)


def test_two_sounds_are_placed_by_what_they_heard(mara, production, lamp):
    heard = wav.read((DEMO / "mara_lamp.wav").read_bytes())
    late = round(1.5 * heard.rate)
    room = np.random.default_rng(3).normal(0, 0.002, (len(heard.samples) - late, *heard.samples.shape[1:]))
    second = stored(
        mara, wav.write(Sound((heard.samples[late:] * 0.6 + room).astype(np.float32), heard.rate)), "second.wav"
    )
    other = import_take(mara, production, "room", "Mara Quill", [second])
    made = make_lineup(mara, production, "sounds", [lamp.id, other.id])
    job = request_placing(mara, made.id, "sound", [f"{lamp.id} sound", f"{other.id} sound"])
    run_job(mara, job.id)
    assert [j.state for j in list_jobs(mara, production)] == ["done"]
    found = rows(mara, made)
    assert found["4A / 1", "sound"]["how"] == "first"
    assert found["room", "sound"]["how"] == "sound"
    assert found["room", "sound"]["start"] == pytest.approx(1.5, abs=0.002)
    assert found["room", "sound"]["confidence"] > 0.5
    assert found["room", "sound"]["against"] == f"{lamp.id} sound"
    # How it lay against that is kept as a picture whose best bar is where it was found.
    picture = found["room", "sound"]["picture"]
    best = picture["first"] + picture["step"] * int(np.argmax(picture["scores"]))
    assert best == pytest.approx(picture["offset"], abs=2 * picture["step"])
    assert found["4A / 1", "sound"]["picture"] is None


def test_too_few_to_compare_and_strange_ones_are_refused_at_once(mara, lineup, lamp):
    with pytest.raises(InputError, match="1 recordings cannot be compared"):
        request_placing(mara, lineup.id, "auto", [f"{lamp.id} face"])
    with pytest.raises(InputError, match="has no recording"):
        place_by_timecode(mara, lineup.id, lineup.version, ["nobody"])
    with pytest.raises(InputError, match="by is 'smell'"):
        request_placing(mara, lineup.id, "smell")


def test_other_takes_are_chosen_and_what_was_placed_stays(mara, lineup, lamp, bare):
    placed = place_by_timecode(mara, lineup.id, lineup.version)
    chosen = choose_takes(mara, lineup.id, placed.version, [lamp.id])
    assert set(chosen.body.sources) == {f"{lamp.id} {p}" for p in ("face", "body", "sound")}
    assert chosen.body.sources[f"{lamp.id} face"] == placed.body.sources[f"{lamp.id} face"]


def test_it_is_put_into_the_takes_and_each_take_can_take_it_back(mara, lineup, lamp):
    placed = place_by_timecode(mara, lineup.id, lineup.version)
    face, body, sound = (f"{lamp.id} {p}" for p in ("face", "body", "sound"))
    at = placed.body.sources[face].at
    changes = [put(f"sources/{body}/start", str(at - Fr(5, 2))), put(f"sources/{sound}/start", str(at - Fr(1, 8)))]
    edit_document(mara, lineup.id, placed.version, "nudge", changes)
    said = use_lineup(mara, lineup.id)
    assert [s.split(":")[0] for s in said["changed"]] == ["4A / 1", "4A / 1"]
    opened = open_take(mara, lamp.id)
    assert opened.join.body.nudge == pytest.approx(30, abs=0.5)  # half a second of sixty frames later than by timecode
    assert opened.take.body.sound_offset == pytest.approx(-0.125)
    undo(mara, [opened.join.id])
    assert open_take(mara, lamp.id).join.body.nudge == 0
    again = use_lineup(mara, lineup.id)
    assert len(again["changed"]) == 1
    assert "is there already" in again["left"][0]


def test_a_shot_of_it_has_the_takes_where_they_were_played(mara, production, lineup, lamp, bare):
    placed = place_by_timecode(mara, lineup.id, lineup.version)
    at = placed.body.sources[f"{lamp.id} face"].at
    edit_document(mara, lineup.id, placed.version, "nudge", [put(f"sources/{bare.id} face/start", str(at + Fr(1, 3)))])
    shot = shot_of_lineup(mara, lineup.id, "The lamp, both")
    by_performer = {r.performer: list(r.placements.values()) for r in shot.body.roles.values()}
    assert [p.start for p in by_performer["Mara Quill"]] == ["0"]
    assert [p.start for p in by_performer["Ivo Thackett"]] == ["1/3"]
    assert shot.body.timecode == rows(mara, lineup)["4A / 1", "face"]["at"]


def test_takes_of_one_performer_that_overlap_lie_on_lanes_above_each_other(mara, production, bare):
    other = import_take(mara, production, "10", "Ivo Thackett", [table(mara, "more.csv")])
    made = make_lineup(mara, production, "both", [bare.id, other.id])
    changes = [put(f"sources/{bare.id} face/start", "0"), put(f"sources/{other.id} face/start", "1")]
    edit_document(mara, made.id, made.version, "by hand", changes)
    (role,) = shot_of_lineup(mara, made.id, "Both").body.roles.values()
    assert sorted((p.start, p.lane) for p in role.placements.values()) == [("0", 0), ("1", 1)]


def test_nothing_placed_makes_no_shot(mara, lineup):
    with pytest.raises(InputError, match="no face with curves is placed"):
        shot_of_lineup(mara, lineup.id, "Nothing")


def test_a_stranger_finds_no_line_up(stranger, lineup):
    for ask in (lambda: open_lineup(stranger, lineup.id), lambda: use_lineup(stranger, lineup.id)):
        with pytest.raises(NotFoundError):
            ask()


class TestOntoShot:
    @pytest.fixture
    def both(self, mara, lineup, lamp, bare):
        """The line-up with both faces placed, the second one a third of a second later."""
        placed = place_by_timecode(mara, lineup.id, lineup.version)
        at = placed.body.sources[f"{lamp.id} face"].at
        later = put(f"sources/{bare.id} face/start", str(at + Fr(1, 3)))
        return edit_document(mara, lineup.id, placed.version, "nudge", [later])

    @staticmethod
    def starts(shot):
        return {r.performer: [p.start for p in r.placements.values()] for r in shot.body.roles.values()}

    def moved(self, work, shot, performer, start, *more):
        role = next(k for k, r in shot.body.roles.items() if r.performer == performer)
        (placement,) = shot.body.roles[role].placements
        path = f"roles/{role}/placements/{placement}/start"
        return edit_document(work, shot.id, shot.version, "elsewhere", [put(path, start), *more])

    def test_clips_go_back_to_where_they_were_played_by_the_counts_in_one_step(self, mara, lineup, both):
        shot = shot_of_lineup(mara, lineup.id, "Both")
        other = self.moved(mara, shot, "Ivo Thackett", "2")
        assert self.starts(lay_on_shot(mara, lineup.id, shot.id, other.version)) == self.starts(shot)
        undo(mara, [shot.id])
        assert self.starts(open_shot(mara, shot.id).shot) == {"Mara Quill": ["0"], "Ivo Thackett": ["2"]}

    def test_without_a_count_the_first_clip_stays(self, mara, lineup, both):
        shot = shot_of_lineup(mara, lineup.id, "Both")
        bare_shot = self.moved(mara, shot, "Mara Quill", "1", put("timecode", ""))
        again = self.moved(mara, bare_shot, "Ivo Thackett", "3")
        laid = lay_on_shot(mara, lineup.id, shot.id, again.version)
        assert self.starts(laid) == {"Mara Quill": ["1"], "Ivo Thackett": ["4/3"]}
        assert lay_on_shot(mara, lineup.id, shot.id, laid.version).version == laid.version

    def test_the_shot_grows_where_a_clip_would_end_after_it(self, mara, lineup, both, bare):
        shot = shot_of_lineup(mara, lineup.id, "Both")
        at = both.body.sources[f"{bare.id} face"].at
        edit_document(mara, lineup.id, both.version, "later", [put(f"sources/{bare.id} face/start", str(at + 9))])
        laid = lay_on_shot(mara, lineup.id, shot.id, shot.version)
        assert self.starts(laid)["Ivo Thackett"] == ["28/3"]
        assert Fr(laid.body.length) > Fr(shot.body.length) + 6

    def test_a_clip_before_the_shot_is_refused_and_nothing_changes(self, mara, lineup, both, bare):
        shot = shot_of_lineup(mara, lineup.id, "Both")
        at = both.body.sources[f"{bare.id} face"].at
        edit_document(mara, lineup.id, both.version, "earlier", [put(f"sources/{bare.id} face/start", str(at - 2))])
        with pytest.raises(InputError, match=r"Ivo Thackett was played 1\.67 s before the shot begins"):
            lay_on_shot(mara, lineup.id, shot.id, shot.version)
        assert open_shot(mara, shot.id).shot.version == shot.version

    def test_a_shot_of_other_takes_is_refused(self, mara, production, lineup, both, bare):
        other = import_take(mara, production, "11", "Ivo Thackett", [table(mara, "other.csv")])
        made = make_lineup(mara, production, "other", [other.id])
        edit_document(mara, made.id, made.version, "by hand", [put(f"sources/{other.id} face/start", "0")])
        shot = shot_of_lineup(mara, made.id, "Other")
        with pytest.raises(InputError, match="no clip of this shot"):
            lay_on_shot(mara, lineup.id, shot.id, shot.version)


def test_what_is_kept_together_stays_so_when_it_is_placed_anew(mara, lineup, lamp):
    key = f"{lamp.id} face"
    kept = edit_document(mara, lineup.id, lineup.version, "keep together", [put(f"sources/{key}/group", "g")])
    assert place_by_timecode(mara, lineup.id, kept.version).body.sources[key].group == "g"
    assert rows(mara, lineup)["4A / 1", "face"]["group"] == "g"


def test_a_sound_that_drifts_is_put_on_its_faces_clock_with_its_words(mara, production, lineup, lamp):
    placed = place_by_timecode(mara, lineup.id, lineup.version)
    key = f"{lamp.id} sound"
    edit_document(mara, lineup.id, placed.version, "found", [put(f"sources/{key}/drift", 200.0)])
    before = open_take(mara, lamp.id).sources["sound"]
    with mara.store.unit() as unit:
        word = {"word": "lamp", "first": 1.0, "last": 1.5, "phones": [["L", 1.0]]}
        words = parse(WordsBody, {"sound": before.id, "text": "lamp", "words": {"w": word}}, "the words")
        add_document(unit, production, words, words_key(before.id))
    said = use_lineup(mara, lineup.id)
    assert any("+200 ppm" in line for line in said["changed"])
    (job,) = [j for j in list_jobs(mara, production) if j.kind == "drift"]
    run_job(mara, job.id)
    after = open_take(mara, lamp.id).sources["sound"]
    assert after.name == "mara_lamp on the face's clock.wav"
    longer = after.info["seconds"] / before.info["seconds"]
    assert longer == pytest.approx(1.0002, abs=2e-5)
    with mara.store.unit() as unit:
        (kept,) = unit.documents.by_key(production, WordsBody, words_key(after.id)).body.words.values()
    assert (kept.first, kept.last) == pytest.approx((1.0002, 1.5003))
    # The line-up does not say so any more; a step back gives the take its sound again, and a job that is late changes nothing.
    assert rows(mara, lineup)["4A / 1", "sound"]["drift"] == 0
    undo(mara, [lamp.id])
    assert open_take(mara, lamp.id).sources["sound"].id == before.id


def test_a_take_that_has_another_sound_by_then_keeps_it(mara, production, lineup, lamp):
    placed = place_by_timecode(mara, lineup.id, lineup.version)
    edit_document(mara, lineup.id, placed.version, "found", [put(f"sources/{lamp.id} sound/drift", 50.0)])
    use_lineup(mara, lineup.id)
    (job,) = [j for j in list_jobs(mara, production) if j.kind == "drift"]
    other = attach_source(mara, lamp.id, demo(mara, "ivo_hush.wav"))
    run_job(mara, job.id)
    (job,) = [j for j in list_jobs(mara, production) if j.kind == "drift"]
    assert (job.state, job.message) == ("failed", "the take has another sound by now. Line it up again")
    assert open_take(mara, lamp.id).sources["sound"].id == other.body.sources.sound
