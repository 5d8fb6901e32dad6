"""Pencils of every kind of file, against Pillow; the simulated scanner, against what it was told to draw."""

import io

import numpy as np
import pytest
from PIL import Image

from plain_stride.pencils.picture import darkness, picture_facts
from plain_stride.pencils.scanner import LEVELS, PHOTO, ROUGH, SOFT, ScannerError, Scanning, scan

RAMP = np.linspace(0, 255, 64 * 48).reshape(48, 64).astype(np.uint8)
LINE = np.array([[10.0, 20.0], [70.0, 20.0]])


def file_of(picture, kind, **more):
    out = io.BytesIO()
    picture.save(out, kind, **more)
    return out.getvalue()


def grey():
    return Image.fromarray(RAMP)


KINDS = {
    "grey": (grey, "PNG", {}),
    "16 bit": (lambda: Image.fromarray(RAMP.astype(np.uint16) * 257), "PNG", {}),
    "16 bit TIFF": (lambda: Image.fromarray(RAMP.astype(np.uint16) * 257), "TIFF", {}),
    "RGB": (lambda: grey().convert("RGB"), "PNG", {}),
    "RGBA": (lambda: grey().convert("RGBA"), "PNG", {}),
    "grey and alpha": (lambda: grey().convert("LA"), "PNG", {}),
    "palette": (lambda: grey().quantize(256), "PNG", {}),
    "JPEG": (grey, "JPEG", {"quality": 100}),
    "WebP": (lambda: grey().convert("RGB"), "WEBP", {"lossless": True}),
    "CMYK JPEG": (lambda: grey().convert("RGB").convert("CMYK"), "JPEG", {"quality": 100}),
    "CMYK TIFF": (lambda: grey().convert("RGB").convert("CMYK"), "TIFF", {}),
    "TIFF": (grey, "TIFF", {"compression": "tiff_lzw"}),
    "float TIFF": (lambda: Image.fromarray(RAMP.astype(np.float32)), "TIFF", {}),
}


@pytest.mark.parametrize("name", KINDS)
def test_every_kind_is_as_dark_as_pillow_has_it(name):
    make, kind, more = KINDS[name]
    data = file_of(make(), kind, **more)
    assert picture_facts(data).pixels == (64, 48)
    assert np.abs(darkness(data).astype(int) - (255 - RAMP.astype(int))).max() <= 3


def test_cmyk_is_pillows_own_conversion():
    """Without a colour profile Pillow takes R = (255 - C)(255 - K) / 255."""
    rng = np.random.default_rng(3)
    picture = Image.frombytes("CMYK", (30, 20), rng.integers(0, 256, (20, 30, 4), np.uint8).tobytes())
    wanted = 255 - np.asarray(picture.convert("RGB").convert("L"), int)
    assert np.abs(darkness(file_of(picture, "TIFF")).astype(int) - wanted).max() <= 2


def test_bilevel_and_transparent_paper():
    assert set(np.unique(darkness(file_of(grey().convert("1"), "PNG")))) == {0, 255}
    clear = Image.new("RGBA", (9, 9), (0, 0, 0, 0))
    clear.putpixel((4, 4), (0, 0, 0, 255))
    dark = darkness(file_of(clear, "PNG"))
    assert dark[4, 4] == 255 and dark.sum() == 255


@pytest.mark.parametrize("turn", range(1, 9))
def test_exif_turns_the_picture_upright(turn):
    """EXIF 2.3, tag 274; Pillow's own transpose is the reference for the pixels."""
    exif = Image.Exif()
    exif[274] = turn
    data = file_of(grey().convert("RGB"), "JPEG", quality=100, exif=exif)
    sideways = turn >= 5
    assert picture_facts(data).pixels == ((48, 64) if sideways else (64, 48))
    ways = {1: RAMP, 2: RAMP[:, ::-1], 3: RAMP[::-1, ::-1], 4: RAMP[::-1], 5: RAMP.T, 6: np.rot90(RAMP, -1),
            7: RAMP[::-1, ::-1].T, 8: np.rot90(RAMP)}  # fmt: skip
    assert np.abs(darkness(data).astype(int) - (255 - ways[turn].astype(int))).max() <= 6


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF"])
def test_the_dpi_is_read(kind):
    facts = picture_facts(file_of(grey(), kind, dpi=(300, 300)))
    assert facts.dpi is not None and np.allclose(facts.dpi, 300, atol=0.1)
    assert picture_facts(file_of(grey(), kind)).dpi is None or kind == "TIFF"


# The scanner


@pytest.mark.parametrize("level", LEVELS)
def test_every_level_is_the_same_by_seed_and_another_by_another(level):
    how = LEVELS[level]
    data = scan([LINE], (80.0, 40.0), 150.0, 5, how, [LINE + 5.0])
    assert data == scan([LINE], (80.0, 40.0), 150.0, 5, how, [LINE + 5.0])
    assert data != scan([LINE], (80.0, 40.0), 150.0, 6, how, [LINE + 5.0])
    facts = picture_facts(data)
    assert facts.kind == ("JPEG" if how.jpeg else "PNG") and facts.pixels == (472, 236)
    assert np.allclose(facts.dpi, 150, atol=0.1)


def rows_dark(data, dpi):
    """mm from the top of every pixel that is clearly pencil, inside the line's length."""
    dark = darkness(data)[:, round(14 / 25.4 * dpi) : round(66 / 25.4 * dpi)]
    return np.nonzero(dark > np.median(dark) + 45)[0] / dpi * 25.4


def test_passes_wander_no_farther_than_they_may():
    for seed in range(6):
        soft = rows_dark(scan([LINE], (80.0, 40.0), 300.0, seed, SOFT), 300.0)
        rough = rows_dark(scan([LINE], (80.0, 40.0), 300.0, seed, ROUGH), 300.0)
        assert np.ptp(soft) < 1.2 and np.ptp(rough) > np.ptp(soft)
        assert np.abs(rough - 20.0).max() < 0.6 + 0.42


def test_guides_are_pale_beside_lines():
    dark = darkness(scan([LINE], (80.0, 40.0), 200.0, 1, SOFT, [LINE + (0.0, 12.0)])).astype(float)
    px = 200.0 / 25.4
    paper = np.median(dark)
    line, guide = (
        np.sort(dark[round((y - 1) * px) : round((y + 1) * px)].ravel())[-400:].mean() - paper for y in (20, 32)
    )
    assert 10 < guide < 0.75 * line


def test_a_photograph_is_turned_uneven_and_soft():
    dark = darkness(scan([LINE], (80.0, 40.0), 200.0, 2, Scanning(turn=3.0, uneven=0.4, blur_mm=0.2, jpeg=80)))
    corners = [np.median(dark[y : y + 30, x : x + 30]) for y in (40, -70) for x in (60, -90)]
    assert max(corners) - min(corners) > 25
    left, right = (np.argmax(dark[60:-60, x : x + 8].mean(axis=1)) for x in (120, 480))
    px = 200.0 / 25.4
    assert (right - left) / px == pytest.approx(np.tan(np.radians(3.0)) * 360 / px, abs=0.6)


@pytest.mark.parametrize("wrong", [{"passes": 0}, {"wander_mm": 0.7}, {"uneven": 1.0}, {"turn": 60.0}, {"jpeg": 0}])
def test_settings_that_no_scanner_has_are_refused(wrong):
    with pytest.raises(ScannerError):
        Scanning(**wrong)


def test_levels_are_told_apart():
    assert SOFT.passes == 1 and ROUGH.passes in (2, 3) and PHOTO.jpeg and PHOTO.turn and PHOTO.uneven and PHOTO.blur_mm
