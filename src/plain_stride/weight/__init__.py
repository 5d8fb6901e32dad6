"""Weight: the plan's rules that give lines their width, and what the widths of a drawing amount to."""
