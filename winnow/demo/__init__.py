"""The demo shoot: made-up pictures to try everything on."""
