"""Plain Stride: an inking bench that turns pencils into final line art."""

__version__ = "0.1.0"
