"""Looking after a Winnow: what there is, whether it is sound, backups, its place on the desktop."""
