"""Lines: centreline, fit, widths, outline, ends, crossings. One file, one idea; plain functions on arrays."""
