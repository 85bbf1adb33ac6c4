"""What can be asked of frames: `registry` lists it, `kinds` says how, `own` holds what has words of its own."""
