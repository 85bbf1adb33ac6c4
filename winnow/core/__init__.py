"""The rules of the job as pure functions: no files, no SQL, no HTTP, no clock, no randomness."""
