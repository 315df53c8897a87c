"""The pictures in the dark: what shines how strongly where, flat and walked round."""
