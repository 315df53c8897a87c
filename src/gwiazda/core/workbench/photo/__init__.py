"""A photo of the lit model, measured."""
