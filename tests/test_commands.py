"""The command line as a room: one file a command, found by its name, loading only what it needs."""

import pkgutil
import subprocess
import sys
from importlib import import_module

import pytest

from dynaface.assets import ASSETS
from dynaface.cli import commands, main
from dynaface.core.registry import discover

FOUND = discover(commands, "COMMAND")
CLIP = ASSETS / "demo/mara_clip.mp4"
TABLE = ASSETS / "demo/mara_lamp.csv"


def refused(capsys, *arguments):
    """The one line on standard error with which bad input is refused."""
    with pytest.raises(SystemExit) as ended:
        main([str(a) for a in arguments])
    assert ended.value.code == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert said.err.count("\n") == 1
    assert said.err.startswith("dynaface: ")
    return said.err


def test_a_commands_file_bears_its_name():
    files = {i.name.rstrip("_") for i in pkgutil.iter_modules(commands.__path__)}
    assert files == {name.replace("-", "_") for name in FOUND}


@pytest.mark.parametrize("name", sorted(FOUND))
def test_each_explains_itself(name, capsys):
    with pytest.raises(SystemExit) as ended:
        main([name, "--help"])
    assert ended.value.code == 0
    said = capsys.readouterr().out
    assert said.startswith(f"usage: dynaface {name}")
    assert FOUND[name].help[0].islower()


def test_help_lists_them_all_with_examples(capsys):
    with pytest.raises(SystemExit):
        main(["--help"])
    said = capsys.readouterr().out
    assert all(f"    {name}" in said for name in FOUND)
    assert "exit status: 0" in said
    examples = [line.split()[1] for line in said.splitlines() if line.startswith("  dynaface ")]
    assert set(examples) <= set(FOUND)


@pytest.mark.parametrize("typed", [[], ["juggle"], ["../../etc"], ["solve"], ["__init__"]])
def test_what_is_no_command_or_lacks_something_says_how_to_use_it(typed, capsys):
    with pytest.raises(SystemExit) as ended:
        main(typed)
    assert ended.value.code == 2
    assert "usage: dynaface" in capsys.readouterr().err


def test_a_worker_sets_its_threads_before_numpy_is_there():
    """NumPy reads the number of threads once, when it is loaded."""
    code = "import sys, dynaface.cli as c; c._parser(c._needed(['worker'])); print('numpy' in sys.modules)"
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == "False"


def test_a_command_loads_no_other():
    code = "import sys, dynaface.cli as c; c._parser(c._needed(['check'])); print('dynaface.cli.commands.solve' in sys.modules)"
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == "False"


def test_a_file_that_is_not_there_is_named(capsys, tmp_path):
    assert "nowhere.csv: No such file" in refused(capsys, "check", tmp_path / "nowhere.csv")


@pytest.mark.parametrize(
    ("typed", "message"),
    [
        (["import", CLIP, "--out", "x.csv"], "mara_clip.mp4 is a"),
        (["solve", TABLE, "--out", "x.csv"], "markers need --layout"),
        (["solve", CLIP, "--rom", CLIP, "--out", "x.csv"], "a range of motion needs --samples"),
        (["character", CLIP], "mara_clip.mp4: "),
        (["tidy", TABLE, "--out", "x.csv"], "nothing says what to do"),
        (["tidy", TABLE, "--propose"], "the proposal goes nowhere"),
        (["tidy", TABLE, "--stack", TABLE], "the tidied table goes nowhere"),
        (["tidy", TABLE, "--stack", TABLE, "--out", "x.csv"], "mara_lamp.csv is no JSON"),
        (["reduce", TABLE, "--tolerance", "5", "--out", "x.json"], "tolerance is 5"),
        (["layout", TABLE, "--out", "x.json"], "not markers"),
        (["dots", CLIP, "--pick", "chin pad", "--out", "x.json"], "picks no dot"),
        (["dots", CLIP, "--pick", "chin pad=1,2", "--frame", "9999", "--out", "x.json"], "frame 9999 is not in a clip"),
        (["dots", CLIP, "--pick", "third ear=1,2", "--out", "x.json"], "third ear"),
        (["deliver", TABLE, "--character", CLIP, "--out", "x.glb"], "mara_"),
    ],
)
def test_bad_input_gets_one_line_that_says_what_and_where(typed, message, capsys, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert message in refused(capsys, *typed)
    assert list(tmp_path.iterdir()) == []


def test_without_accounts_the_server_stays_on_this_machine(capsys, settings, monkeypatch):
    monkeypatch.setenv("DYNAFACE_ACCOUNTS", "alone")
    assert "stays on this machine" in refused(capsys, "serve", "--host", "0.0.0.0")


def test_an_account_is_added_with_a_password_from_standard_input(base, settings, monkeypatch, capsys):
    import io
    from uuid import uuid4

    from dynaface.services.people.sign_in import sign_in

    name = f"Odo {uuid4().hex[:6]}"
    monkeypatch.setattr(sys, "stdin", io.StringIO("lamps on the harbour\n"))
    main(["account", name])
    assert capsys.readouterr().out == f"added {name}\n"
    assert sign_in(base.store, name, "lamps on the harbour").name == name


def test_every_command_can_be_loaded_by_itself():
    for info in pkgutil.iter_modules(commands.__path__):
        command = import_module(f"{commands.__name__}.{info.name}").COMMAND
        assert callable(command.run)
        assert callable(command.arguments)
