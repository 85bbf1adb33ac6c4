"""Background work on a shoot: scan → derive → measure."""
