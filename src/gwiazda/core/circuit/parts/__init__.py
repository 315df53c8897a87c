"""What circuits are made of, by their equations."""
