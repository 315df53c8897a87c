"""Reference cases, read and checked."""
