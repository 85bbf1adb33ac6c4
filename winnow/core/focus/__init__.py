"""Focus: how far edges are spread (`edges`), where in the frame (`blurmap`), by motion or by missed
focus (`motion`), and what that says of the subject (`verdict`)."""
