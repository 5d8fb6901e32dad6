"""Files that once broke something, each with every command that reads it: one sentence or success, in time, the file as
it was, and what comes out is well formed."""

import hashlib
import io
import tarfile
from pathlib import Path
from xml.etree import ElementTree

import pytest

from plain_stride import cli
from tests.bad_days.test_bad_files import tried

CORPUS = Path(__file__).parent / "corpus" / "hostile.tar.xz"
DRAWN_SECONDS = 60.0
"""For hundreds of dashes, drawn by the slower loops on a machine that does other work as well."""
READING = (["info", "--json"], ["lines", "--json"], ["board", "--json"], ["history"])


def members() -> dict[str, bytes]:
    with tarfile.open(CORPUS) as packed:
        found = {}
        for member in packed.getmembers():
            file = packed.extractfile(member)
            assert file is not None
            found[member.name] = file.read()
        return found


FILES = members()


@pytest.mark.parametrize("name", sorted(n for n in FILES if n.endswith(".stride")))
def test_hostile_jobs(name, tmp_path, capsys):
    job = tmp_path / "h.stride"
    job.write_bytes(FILES[name])
    before = hashlib.sha256(FILES[name]).hexdigest()
    said = []
    for command, *options in READING:
        status, words = tried([command, job, *options], capsys)
        said.append(words)
        assert status == 0 or "was not touched" in words
    tried(["export", job, tmp_path / "o.svg"], capsys)
    if (tmp_path / "o.svg").exists():
        ElementTree.parse(tmp_path / "o.svg")
    assert hashlib.sha256(job.read_bytes()).hexdigest() == before
    assert {p.name for p in tmp_path.iterdir()} <= {"h.stride", "o.svg"}
    if said[0]:
        # What cannot be read cannot be changed either, and stays as it was.
        for changing in (["undo", job], ["weigh", job, "--json"], ["history", job, "--pack"]):
            assert tried(changing, capsys)[0] == 1
        assert hashlib.sha256(job.read_bytes()).hexdigest() == before
    capsys.readouterr()


@pytest.mark.parametrize("name", sorted(n for n in FILES if n.endswith(".svg")))
def test_hostile_drawings(name, tmp_path, capsys):
    """What such a drawing leaves in a job can be told, drawn and taken back."""
    job, art = tmp_path / "j.stride", tmp_path / "a.svg"
    art.write_bytes(FILES[name])
    assert cli.main(["new", str(job), "--size", "60x40mm", "--dpi", "150"]) == 0
    status = cli.main(["import", str(job), str(art)])
    said = capsys.readouterr().err
    assert status in (0, 1) and "something went wrong" not in said and len(said) < 2000
    for command in (["lines", job, "--json"], ["export", job, tmp_path / "o.svg"], ["export", job, tmp_path / "o.png"]):
        assert tried(command, capsys, (0,), DRAWN_SECONDS)[0] == 0
    ElementTree.parse(io.BytesIO((tmp_path / "o.svg").read_bytes()))
    if status == 0:
        assert tried(["undo", job], capsys, (0,))[0] == 0
