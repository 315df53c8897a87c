"""Cards over the plate: begin, find, ask."""
