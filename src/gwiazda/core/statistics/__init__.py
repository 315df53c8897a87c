"""What readings say of what strays: numbers and arrays alone."""
