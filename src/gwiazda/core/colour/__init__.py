"""Colour: the observer, tints, recipes, how unlike two colours look."""
