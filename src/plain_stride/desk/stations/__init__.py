"""The stations' notes: for each its sentences and its few controls."""
