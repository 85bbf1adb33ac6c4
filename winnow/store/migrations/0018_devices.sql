-- Browsers on other machines that were let in by a code.
CREATE TABLE device (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  digest TEXT NOT NULL UNIQUE,         -- SHA-256 of what its cookie holds
  made_at TEXT NOT NULL,
  seen_at TEXT NOT NULL
);
