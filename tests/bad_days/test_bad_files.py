"""Files that are not what they should be: one clear message each, nothing lost, no crash, no hang, little memory."""

import io
import json
import resource
import struct
import time
import zlib

import numpy as np
import pytest
from PIL import Image

from plain_stride import cli
from plain_stride.job.job_files import opened
from tests.conftest import plain_rows
from tests.job.test_job_covers import old_file

SECONDS, BYTES = 10.0, 2_000_000_000
MUTANTS = 1000


@pytest.fixture
def job(tmp_path):
    path = tmp_path / "good.stride"
    assert cli.main(["new", str(path), "--size", "60x40mm", "--dpi", "150"]) == 0
    pulls = {"pulls": [{"samples": [[5 + k, 10 + (k % 7) * 0.2, 0.4, k * 0.02] for k in range(40)], "part": "Gate"}]}
    (tmp_path / "p.json").write_text(json.dumps(pulls))
    assert cli.main(["import", str(path), str(tmp_path / "p.json")]) == 0
    return path


def tried(arguments, capsys, statuses=(0, 1), seconds=SECONDS):
    """Runs a command: its status is one of these, a failure says one line, in time and without a crash."""
    capsys.readouterr()
    began = time.monotonic()
    status = cli.main([str(a) for a in arguments])
    said = capsys.readouterr().err.strip()
    assert time.monotonic() - began < seconds
    assert status in statuses, said
    assert "something went wrong" not in said and "Traceback" not in said, said
    assert (status == 0) == (said == "") and "\n" not in said, said
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 < BYTES
    return status, said


def contents(path):
    with opened(path) as (job, _):
        return json.dumps(plain_rows(job), sort_keys=True)


# Pictures


def png(w, h, rows=b"", depth=8, colour=0):
    def chunk(kind, body):
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", w, h, depth, colour, 0, 0, 0))
        + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
    )  # fmt: skip


def picture(kind, size=(90, 60), **more):
    out = io.BytesIO()
    rng = np.random.default_rng(1)
    Image.fromarray(rng.integers(0, 255, (size[1], size[0]), np.uint8)).save(out, kind, **more)
    return out.getvalue()


PICTURES = {
    "empty": b"",
    "one byte": b"\x89",
    "text": b"no picture at all" * 40,
    "a job": b"SQLite format 3\0" + bytes(400),
    "half a PNG": picture("PNG")[:2000],
    "half a JPEG": picture("JPEG")[:900],
    "half a TIFF": picture("TIFF", compression="tiff_lzw")[:900],
    "half a WebP": picture("WEBP")[:700],
    "60,000 x 60,000 in the head": png(60_000, 60_000),
    "a bomb of zeros": png(15_000, 15_000, bytes(15_000 * 15_001)[:40_000_000]),
    "no pixels": png(0, 10),
    "a GIF": picture("GIF"),
    "a TIFF that says it is large": picture("TIFF").replace(struct.pack("<H", 90), struct.pack("<H", 60_000)),
}


@pytest.mark.parametrize("what", PICTURES)
def test_pictures_that_cannot_be_pencils(tmp_path, capsys, what):
    (tmp_path / "scan.png").write_bytes(PICTURES[what])
    command = ["new", tmp_path / "x.stride", "--size", "60x40mm", "--dpi", "150", "--pencils", tmp_path / "scan.png"]
    tried(command, capsys, (1,))
    assert not (tmp_path / "x.stride").exists()


def test_a_mislabelled_picture_is_read_for_what_it_is(tmp_path, capsys):
    (tmp_path / "scan.png").write_bytes(picture("JPEG", dpi=(200, 200)))
    command = ["new", tmp_path / "x.stride", "--size", "60x40mm", "--dpi", "150", "--pencils", tmp_path / "scan.png"]
    tried(command, capsys, (0,))


@pytest.mark.parametrize("kind", ["uint8", "uint16", "bilevel"])
def test_pixels_are_those_that_tifffile_reads(kind):
    """tifffile (an independent reader and writer of TIFF) writes, we read."""
    import tifffile

    from plain_stride.pencils.picture import darkness, picture_facts

    rng = np.random.default_rng(2)
    data = {"uint8": rng.integers(0, 255, (40, 70), np.uint8), "uint16": rng.integers(0, 65535, (40, 70), np.uint16),
            "bilevel": rng.integers(0, 2, (40, 70)).astype(bool)}[kind]  # fmt: skip
    out = io.BytesIO()
    tifffile.imwrite(out, data, photometric="minisblack", resolution=(300, 300), resolutionunit="INCH")
    full = {"uint8": 255.0, "uint16": 65535.0, "bilevel": 1.0}[kind]
    assert picture_facts(out.getvalue()).dpi == (300, 300)
    assert np.abs((255 - darkness(out.getvalue())) - data / full * 255.0).max() <= 1.0


# SVG

OURS = "urn:plain-stride:1"


def svg(body, head=""):
    return f'<?xml version="1.0"?>{head}<svg xmlns="http://www.w3.org/2000/svg" xmlns:s="{OURS}">{body}</svg>'


def line(centre="0 0 1 1 2 2 3 3", widths="0 .2 .2 4.2 .2 .2"):
    return f'<g s:part="A"><path s:centre="{centre}" s:widths="{widths}" s:ends="round round" s:id="q"/></g>'


SVGS = {
    "entities": svg("&e;" + line(), "<!DOCTYPE svg [" + '<!ENTITY a "ha">'
                    + "".join(f'<!ENTITY {b} "{f"&{a};" * 12}">' for a, b in zip("abcd", "bcde", strict=True)) + "]>"),
    "a file from outside": svg("&x;", '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>'),
    "a loop of use": svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>'),
    "no lines": svg("<desc>nothing is drawn</desc>"),
    "absurd places": svg(line("0 0 1 1 2 2 1e300 3")),
    "no number": svg(line("0 0 1 1 2 2 nan 3")),
    "endless width": svg(line(widths="0 .2 .2 4.2 inf .2")),
    "widths backwards": svg(line(widths="4 .2 .2 0 .2 .2")),
    "half of it": svg(line())[:150],
    "very deep": svg("<g>" * 200_000),
    "empty": "",
}  # fmt: skip


@pytest.mark.parametrize("what", SVGS)
def test_svgs_that_cannot_be_lines(job, tmp_path, capsys, what):
    (tmp_path / "a.svg").write_text(SVGS[what])
    before = contents(job)
    tried(["import", job, tmp_path / "a.svg"], capsys, (1,))
    assert contents(job) == before


@pytest.mark.parametrize("body", ["<script>alert(1)</script>", '<image href="http://localhost/x.png"/>', ""])
def test_scripts_are_passed_by_and_no_size_is_needed(job, tmp_path, capsys, body):
    (tmp_path / "a.svg").write_text(svg(body + line()))
    tried(["import", job, tmp_path / "a.svg"], capsys, (0,))


# Mutants


def mutated(data, rng):
    """Bytes flipped, taken out, doubled, set to zero, or the file cut off."""
    out = bytearray(data)
    for _ in range(int(rng.integers(1, 6))):
        at, long = int(rng.integers(0, max(len(out), 1))), int(rng.integers(1, 60))
        kind = rng.integers(0, 6)
        if kind == 0:
            out[at : at + 1] = bytes([int(rng.integers(0, 256))])
        elif kind == 1:
            del out[at : at + long]
        elif kind == 2:
            out[at:at] = out[at : at + long]
        elif kind == 3:
            out[at : at + long] = bytes(min(long, len(out) - at))
        elif kind == 4:
            del out[at:]
        else:
            out[at : at + long] = bytes(rng.integers(0, 256, long, np.uint8).tolist())
    return bytes(out)


def sources(job, tmp_path, capsys):
    """(kind, bytes, command with {} for the file, job that must stay as it is or change whole)."""
    cli.main(["lines", str(job), "--json"])
    lines = capsys.readouterr().out.encode()
    assert cli.main(["export", str(job), str(tmp_path / "x.svg")]) == 0
    edits = b'{"changes": [{"change": "part", "name": "Gate", "tier": "near", "order": 1}, {"change": "swell", "line": "l3", "factor": 1.4, "from": 2.5, "to": 9}, {"change": "cover", "name": "Gate", "on": true, "gap": 0.4}]}'
    return {
        "job": (job.read_bytes(), "m.stride", ["lines", "{}", "--json"]),
        "written job": (job.read_bytes(), "m.stride", ["undo", "{}"]),
        "old job": (old_file(tmp_path).read_bytes(), "m.stride", ["undo", "{}"]),
        "svg": ((tmp_path / "x.svg").read_bytes(), "m.svg", ["import", job, "{}"]),
        "lines": (lines, "m.json", ["import", job, "{}"]),
        "pulls": ((tmp_path / "p.json").read_bytes(), "m.json", ["import", job, "{}"]),
        "edits": (edits, "m.json", ["edit", job, "{}"]),
        "png": (picture("PNG"), "m.png", ["new", tmp_path / "n.stride", "--size", "9x9mm", "--dpi", "300", "--pencils", "{}"]),
        "jpeg": (picture("JPEG"), "m.jpg", ["new", tmp_path / "n.stride", "--size", "9x9mm", "--dpi", "300", "--pencils", "{}"]),
        "tiff": (picture("TIFF"), "m.tif", ["new", tmp_path / "n.stride", "--size", "9x9mm", "--dpi", "300", "--pencils", "{}"]),
        "webp": (picture("WEBP"), "m.webp", ["new", tmp_path / "n.stride", "--size", "9x9mm", "--dpi", "300", "--pencils", "{}"]),
    }  # fmt: skip


def test_1000_mutated_files(job, tmp_path, capsys):
    rng = np.random.default_rng(20261125)
    kinds = sources(job, tmp_path, capsys)
    whole = job.read_bytes()
    refused = dict.fromkeys(kinds, 0)
    for n in range(MUTANTS):
        kind = list(kinds)[n % len(kinds)]
        data, name, command = kinds[kind]
        file = tmp_path / name
        for end in ("", "-wal", "-shm", "-lock"):
            (tmp_path / f"{name}{end}").unlink(missing_ok=True)
            (tmp_path / f"n.stride{end}").unlink(missing_ok=True)
        job.write_bytes(whole)
        file.write_bytes(mutated(data, rng))
        before = contents(job)
        status, said = tried([file if part == "{}" else part for part in command], capsys)
        if status:
            refused[kind] += 1
            assert len(said) > 20, (n, said)
            assert contents(job) == before
        with opened(job) as (after, _):
            assert after.rows.board
    assert all(count > 5 for count in refused.values()), refused
