"""Light inside of sections: what is in the way of it, what it falls on, what leaks."""
