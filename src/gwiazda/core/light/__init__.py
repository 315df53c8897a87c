"""Light inside, through the skin, and to the eye."""
