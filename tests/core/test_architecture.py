"""The page on how it is built says what the code has."""

import re
import tomllib
from pathlib import Path

from plain_stride.finish.writers import WRITERS
from plain_stride.form.contacts import KINDS
from plain_stride.job import changes  # noqa: F401
from plain_stride.job.change_context import CHANGES
from plain_stride.job.records import RECORDS
from plain_stride.lines import recipe

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs" / "architecture.md").read_text()


def table(heading):
    """First column of the table under a head row, backquotes taken off."""
    body = PAGE.split(f"| {heading} |", 1)[1].split("\n\n", 1)[0]
    return [re.match(r"\| `([^`]+)`", line)[1] for line in body.splitlines()[2:] if line.startswith("| `")]


def test_its_rooms_are_those_that_the_contract_holds():
    layers = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"][0]["layers"]
    held = [room.strip().removeprefix("plain_stride.") for layer in layers for room in layer.split("|")]
    assert table("room") == held
    beside = {"cli", "cli_main", "measure", "errors", "installed", "job_mark", "plain_json", "texts"}
    source = ROOT / "src" / "plain_stride"
    rooms = {path.name for path in source.iterdir() if (path / "__init__.py").exists()}
    assert rooms - {"data"} <= set(held)
    assert {path.stem for path in source.glob("*.py")} - {"__init__", "__main__"} <= beside | set(held)


def test_its_stages_are_functions_in_the_order_in_which_they_are_called():
    stages = table("stage")
    assert all(callable(getattr(recipe, name)) for name in stages)
    source = Path(recipe.__file__).read_text().split("def worked(")[1].split("\ndef ")[0]
    assert stages == sorted(stages, key=source.index)


def test_its_lists_are_those_of_the_code():
    records = re.search(r"rows change: (.*?)\. A field", PAGE, re.S)[1]
    assert re.findall(r"`(\w+)`", records) == [record.__name__ for record in RECORDS.values()]
    modules = re.search(r"the changes are in (.*?); `bundle`", PAGE, re.S)[1]
    assert set(re.findall(r"`(\w+)`", modules)) == {one.__module__.rsplit(".", 1)[1] for one in CHANGES.values()}
    writers = re.search(r"registry of writers: (.*?)\. Each", PAGE, re.S)[1]
    assert re.findall(r"`([.\w]+)`", writers) == list(WRITERS)
    assert re.search(r"what they are there\n\((.*?)\)", PAGE, re.S)[1].split(", ") == list(KINDS)


def test_every_file_that_it_names_is_there():
    named = set(re.findall(r"`((?:\w+/)+\w+\.(?:py|md))`", PAGE))
    assert len(named) > 25
    for name in named:
        assert any((ROOT / where / name).exists() for where in ("", "src/plain_stride", "docs")), name
