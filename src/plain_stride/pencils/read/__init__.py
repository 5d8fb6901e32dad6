"""Reading pencils: what lines a scan holds, how sure that is, and where it is undecided."""
