"""What Winnow remembers, in SQLite, in plain SQL: one module an aggregate."""
