"""Bodies: what has three sizes and stands in a section, whether it goes in, and its place."""
