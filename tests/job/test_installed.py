"""Put into the desktop and taken out: the files by the desktop's own checks; a wheel that works by itself."""

import shutil
import subprocess
import sys
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import pytest

from plain_stride import cli
from plain_stride.installed import InstallError, data_home, install, uninstall
from plain_stride.job_mark import APPLICATION_ID

ROOT = Path(__file__).parents[2]


def lacking(command):
    return shutil.which(command) is None


def test_installing_and_taking_away_leave_nothing(capsys):
    assert cli.main(["install"]) == 0
    files = [p for p in data_home().rglob("*") if "plain-stride" in p.name]
    assert {p.suffix for p in files} >= {".desktop", ".xml", ".svg"}
    assert cli.main(["install"]) == 0  # again does no harm
    assert cli.main(["uninstall"]) == 0
    assert "taken away" in capsys.readouterr().out
    assert [p for p in data_home().rglob("*") if "plain-stride" in p.name] == []
    assert cli.main(["uninstall"]) == 0
    assert "nothing was in place" in capsys.readouterr().out


def test_the_entry_passes_the_desktops_own_check():
    """desktop-file-validate of desktop-file-utils; where it is not there, the keys that it asks for."""
    entry = next(p for p in install() if p.suffix == ".desktop")
    if lacking("desktop-file-validate"):
        text = entry.read_text()
        assert text.startswith("[Desktop Entry]\n") and all(f"\n{k}=" in text for k in ("Type", "Name", "Exec", "Icon"))
    else:
        done = subprocess.run(["desktop-file-validate", entry], capture_output=True, text=True, check=False)
        assert done.returncode == 0 and done.stdout == ""
    assert f"Exec={sys.executable} -m plain_stride open %f" in entry.read_text()


def test_the_kind_of_file_passes_shared_mime_infos_own_check(tmp_path):
    xml = next(p for p in install() if p.suffix == ".xml")
    root = ElementTree.parse(xml).getroot()
    space = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}
    assert root.find(".//m:glob", space).get("pattern") == "*.stride"
    inner = root.find(".//m:match/m:match", space)
    assert int(inner.get("value"), 16) == APPLICATION_ID and inner.get("offset") == "68"
    if not lacking("update-mime-database"):
        done = subprocess.run(
            ["update-mime-database", data_home() / "mime"], capture_output=True, text=True, check=False
        )
        assert done.returncode == 0 and "plain-stride" not in done.stderr
        assert "application/x-plain-stride:*.stride" in (data_home() / "mime" / "globs2").read_text()
    path = tmp_path / "a.stride"
    cli.main(["new", str(path), "--size", "50x50mm", "--dpi", "100"])
    head = path.read_bytes()[:72]
    assert head[:16] == b"SQLite format 3\x00" and head[68:72] == APPLICATION_ID.to_bytes(4, "big")


def test_a_folder_that_cannot_be_written_is_told(monkeypatch, tmp_path):
    (tmp_path / "applications").write_text("a file in the way")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    with pytest.raises(InstallError, match="cannot be written"):
        install()
    assert uninstall() == []


def test_a_built_wheel_works_outside_the_checkout(tmp_path):
    """Built from this checkout, unpacked elsewhere, run with nothing of the checkout in sight."""
    source = tmp_path / "source"
    shutil.copytree(ROOT / "src", source / "src", ignore=shutil.ignore_patterns("*.egg-info", "__pycache__"))
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, source)
    command = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "-w", tmp_path, source]
    done = subprocess.run([*map(str, command)], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    wheel = next(tmp_path.glob("*.whl"))
    names = zipfile.ZipFile(wheel).namelist()
    for wanted in ("desk/fonts/", "data/plain-stride.svg", "data/plain-stride.xml", "data/plain-stride.desktop"):
        assert any(wanted in name for name in names), wanted
    assert any(name.endswith("licenses/LICENSE") for name in names)
    shutil.unpack_archive(wheel, tmp_path / "unpacked", "zip")
    run = "import sys; sys.path.insert(0, sys.argv.pop(1)); import plain_stride as p; print(p.__file__);" \
          " from plain_stride.cli import main; sys.exit(main(sys.argv[1:]))"  # fmt: skip
    for arguments in (["new", str(tmp_path / "w.stride"), "--size", "50x50mm", "--dpi", "100"], ["install"]):
        done = subprocess.run([sys.executable, "-c", run, str(tmp_path / "unpacked"), *arguments], cwd=tmp_path,
                              capture_output=True, text=True, check=False)  # fmt: skip
        assert done.returncode == 0 and str(tmp_path) in done.stdout, done.stderr
