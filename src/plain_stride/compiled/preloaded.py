"""Imported last by the process that workers are forked from: all of them share the loops that it has loaded."""

import gc

from plain_stride.compiled.ready import load_if_compiled

load_if_compiled()
# The collector's rounds write into all that they look at, and what is written to is shared no more.
gc.collect()
gc.freeze()
