"""Steps, what needs what, evenings: numbers and names, no models."""
