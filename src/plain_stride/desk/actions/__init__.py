"""What can be done, by menu, shortcut or held key."""
