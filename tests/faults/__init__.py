"""Random faults on purpose: processes killed, disks filled, folders pulled out, two clients at once.

By hand: `python -m tests.faults --runs 200`. The suite runs a short round of the same.
"""
