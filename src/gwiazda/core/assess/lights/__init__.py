"""Lights as things: which kinds there are for a kit, what carries one, how bright it gets."""
