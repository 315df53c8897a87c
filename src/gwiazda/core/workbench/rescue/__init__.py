"""What can be done when something is wrong in a section that is closed: the ways in, and what stands in for it."""
