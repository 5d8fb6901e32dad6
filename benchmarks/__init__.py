"""Speed and quality in figures: `./run bench [NAME ...]`. Never part of the tests."""
