"""Winnow: cull a shoot, keep what is worth keeping, lose nothing."""

__version__ = "0.1.0"
