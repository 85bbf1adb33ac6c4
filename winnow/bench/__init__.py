"""The benchmark: every figure of docs/performance.md, each beside a baseline of the same run."""
