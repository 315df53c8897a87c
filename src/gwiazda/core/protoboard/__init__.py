"""Small circuits on strip or pad board: parts on their holes, tracks, cuts and links."""
