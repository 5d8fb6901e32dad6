"""What the desktop's keyboard layout prints on each key, by libxkbcommon, which Qt itself needs on X11."""

import ctypes
import ctypes.util
import os
import re
from functools import lru_cache
from pathlib import Path

_EVDEV_OFFSET = 8
_SYSTEM = Path("/etc/default/keyboard")


class _Names(ctypes.Structure):
    """struct xkb_rule_names: rules, model, layout, variant, options."""

    _fields_ = [(name, ctypes.c_char_p) for name in ("rules", "model", "layout", "variant", "options")]


@lru_cache(maxsize=4)
def printed_letters(places: tuple[tuple[str, int], ...]) -> dict[str, str]:
    """The letter on each key, by its place; places: (name, key code of the input layer). Empty where nothing tells."""
    layout, variant = _layout()
    if not layout:
        return {}
    try:
        return _printed(places, layout, variant)
    except (OSError, AttributeError, ValueError):
        return {}


def _layout() -> tuple[str, str]:
    """(layout, variant) of the desktop, as far as it is told anywhere without asking a server."""
    layout = os.environ.get("XKB_DEFAULT_LAYOUT", "")
    if layout:
        return layout.split(",")[0], os.environ.get("XKB_DEFAULT_VARIANT", "").split(",")[0]
    try:
        text = _SYSTEM.read_text()
    except OSError:
        return "", ""
    found = dict(re.findall(r'^XKB(LAYOUT|VARIANT)="?([^"\n]*)"?', text, flags=re.M))
    return found.get("LAYOUT", "").split(",")[0], found.get("VARIANT", "").split(",")[0]


def _printed(places: tuple[tuple[str, int], ...], layout: str, variant: str) -> dict[str, str]:
    xkb = ctypes.CDLL(ctypes.util.find_library("xkbcommon") or "libxkbcommon.so.0")
    for name in ("xkb_context_new", "xkb_keymap_new_from_names", "xkb_state_new"):
        getattr(xkb, name).restype = ctypes.c_void_p
    names = _Names(None, None, layout.encode(), variant.encode(), None)
    context = ctypes.c_void_p(xkb.xkb_context_new(0))
    if not context:
        return {}
    keymap = ctypes.c_void_p(xkb.xkb_keymap_new_from_names(context, ctypes.byref(names), 0))
    out = {}
    if keymap:
        state = ctypes.c_void_p(xkb.xkb_state_new(keymap))
        text = ctypes.create_string_buffer(16)
        for place, code in places:
            size = xkb.xkb_state_key_get_utf8(state, code + _EVDEV_OFFSET, text, len(text))
            if 0 < size < len(text) and text.value.decode().isprintable():
                out[place] = text.value.decode().upper()
        xkb.xkb_state_unref(state)
        xkb.xkb_keymap_unref(keymap)
    xkb.xkb_context_unref(context)
    return out
