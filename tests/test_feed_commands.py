"""`dynaface send`, `listen` and `record`: a curve table over loopback and back."""

import json
import socket
import threading
from fractions import Fraction

import numpy as np
import pytest

from dynaface.cli import main
from dynaface.core.curves.channels import Channels
from dynaface.core.feed.messages import packets_of
from dynaface.core.feed.packet import Packet
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.formats.bodies import read_bodies
from dynaface.formats.entries import bvh
from dynaface.formats.entries.curve_table import read_table, write_table
from dynaface.formats.osc import read_datagram
from dynaface.sims.body_suit import move
from dynaface.sims.feed_phone import foreign, packets, plain
from tests.makers import channels
from tests.ports import free_port


@pytest.fixture
def table(tmp_path):
    """A second of a face."""
    made = channels(frames=60)
    (tmp_path / "take.csv").write_bytes(write_table(made))
    return made, tmp_path / "take.csv"


@pytest.fixture
def ear():
    """A socket that hears what is sent to it."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as made:
        made.bind(("127.0.0.1", 0))
        made.settimeout(5)
        yield made


def port_of(ear) -> str:
    return f"127.0.0.1:{ear.getsockname()[1]}"


def test_a_table_is_sent_in_our_layout_row_by_row(table, ear, capsys):
    made, file = table
    main(["send", str(file), "--to", port_of(ear), "--performer", "mara"])
    assert "60 packets sent" in capsys.readouterr().out
    heard = [packets_of(read_datagram(ear.recv(65_000)))[0] for _ in range(60)]
    assert [p.number for p in heard] == list(range(60))
    assert [p.seconds for p in heard] == pytest.approx(np.arange(60) / 60, abs=1e-3)
    jaw = [p.values["jawOpen"] for p in heard]
    assert jaw == pytest.approx(made.column("jawOpen"), abs=1e-4)


def test_or_as_a_message_a_channel_at_another_rate(table, ear):
    _, file = table
    main(["send", str(file), "--to", port_of(ear), "--rate", "30", "--address", "/rig/{performer}/{channel}"])
    names = {address for address, _ in read_datagram(ear.recv(65_000))}
    assert "/rig/performer/jawOpen" in names
    assert len(names) == len(table[0].names)


@pytest.mark.parametrize(
    ("more", "words"),
    [(["--address", "/rig"], "no address with"), (["--rate", "0"], "rate"), (["--to", "nowhere"], "no HOST:PORT")],
)
def test_what_can_not_be_sent_is_refused(table, more, words, capsys):
    _, file = table
    with pytest.raises(SystemExit):
        main(["send", str(file), "--to", "127.0.0.1:9", *more])
    assert words in capsys.readouterr().err


def through_a_thread(work, arguments) -> threading.Thread:
    thread = threading.Thread(target=work, args=(arguments,))
    thread.start()
    return thread


def sent_until(thread, port, packets) -> None:
    """Sends packets over and over while a thread listens: it may not have begun yet."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        n = 0
        while thread.is_alive():
            out.sendto(packets[n % len(packets)], ("127.0.0.1", port))
            n += 1
            thread.join(1 / 60)


def test_a_recording_is_a_table_that_is_read_as_it_was_sent(tmp_path, capsys):
    values = np.linspace(0, 1, 200 * 55).reshape(200, 55).astype(np.float32)
    truth = Channels(SHAPES + HEAD_ANGLES, values, Fraction(60))
    sent = [plain(p) for p in packets(truth, "mara")]
    port, file = free_port(socket.SOCK_DGRAM), tmp_path / "take.jsonl"
    recording = through_a_thread(main, ["record", "--at", str(port), "--seconds", "2", "--out", str(file)])
    sent_until(recording, port, sent)
    assert "packets of 127.0.0.1 mara" in capsys.readouterr().out
    recording_read, _ = read_table(file.read_bytes())
    assert set(recording_read.names) == set(truth.names)
    numbers = [json.loads(line)["number"] for line in file.read_text().splitlines()]
    column = recording_read.values[:, recording_read.names.index("jawOpen")]
    assert column == pytest.approx(truth.column("jawOpen")[numbers], abs=1e-4)


def test_listening_says_who_is_heard_and_what_is_not_understood(capsys):
    port = free_port(socket.SOCK_DGRAM)
    listening = through_a_thread(main, ["listen", "--at", str(port), "--seconds", "1.5"])
    face = {"jawOpen": 0.5, "headTurn": 3.0}
    sent_until(
        listening, port, [plain(Packet("mara", None, None, "", face)), foreign(Packet("", values=face)), b"bytes"]
    )
    said = capsys.readouterr().out
    assert "127.0.0.1 mara:" in said
    assert "2 of 2 values are channels" in said
    assert "not understood: 127.0.0.1" in said


def test_listening_as_json_gives_all_values(capsys):
    port = free_port(socket.SOCK_DGRAM)
    listening = through_a_thread(main, ["listen", "--at", str(port), "--seconds", "1", "--json"])
    sent_until(listening, port, [plain(Packet("mara", None, None, "", {"jawOpen": 0.5}))])
    last = json.loads(capsys.readouterr().out.splitlines()[-1])
    assert last["called"] == "mara"
    assert last["signals"][0][:3] == ["jawOpen", "jawOpen", 0.5]


def test_a_port_that_is_taken_and_a_feed_that_does_not_come_are_told(ear, tmp_path, capsys):
    for typed, words in (
        (["listen", "--at", port_of(ear), "--seconds", "1"], "nothing can be heard"),
        (
            [
                "record",
                "--at",
                str(free_port(socket.SOCK_DGRAM)),
                "--seconds",
                "0.2",
                "--out",
                str(tmp_path / "a.jsonl"),
            ],
            "nothing was heard",
        ),
    ):
        with pytest.raises(SystemExit) as ended:
            main(typed)
        assert ended.value.code == 2
        assert words in capsys.readouterr().err


def test_a_body_is_sent_with_its_skeleton_and_recorded_as_it_was(tmp_path, capsys):
    walk = move(1.0, None, 2)
    file, kept = tmp_path / "walk.bvh", tmp_path / "kept.jsonl"
    file.write_bytes(bvh.write(walk))
    port = free_port(socket.SOCK_DGRAM)
    recording = through_a_thread(
        main, ["record", "--at", str(port), "--seconds", "3", "--body", "--performer", "mara", "--out", str(kept)]
    )
    while recording.is_alive():
        main(["send", str(file), "--to", str(port), "--performer", "mara", "--rate", "60"])
    assert "packets of 127.0.0.1 mara written" in capsys.readouterr().out
    found = read_bodies(kept.read_bytes(), kept.name)[0].motion
    truth = read_bodies(file.read_bytes(), file.name)[0].motion
    assert found.skeleton.names == truth.skeleton.names
    assert found.frames > 60
    assert np.abs((found.local[0] * truth.local[0]).sum(axis=-1)).min() > 0.99


def test_a_table_and_a_body_go_out_together(table, ear, tmp_path):
    _, file = table
    walk = tmp_path / "walk.bvh"
    walk.write_bytes(bvh.write(move(1.0, None, 2)))
    sending = through_a_thread(main, ["send", str(file), str(walk), "--to", port_of(ear)])
    heard = [packets_of(read_datagram(ear.recv(65_000)))[0] for _ in range(180)]
    sending.join()
    faces, bodies = [p for p in heard if p.values], [p for p in heard if p.joints]
    assert [p.number for p in faces] == list(range(60))
    assert [p.number for p in bodies] == list(range(120))
