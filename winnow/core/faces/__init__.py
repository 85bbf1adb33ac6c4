"""Faces: where they are (`detect`), their points and eyes (`landmarks`), whether eyes are open (`eyes`), and
which are the same person in the frames of a group (`people`)."""
