"""Everything that leaves: plans are made, shown, applied, recorded, reversed."""
