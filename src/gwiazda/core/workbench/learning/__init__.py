"""What readings teach: of parts, of a section, of a coat; as a belief that holds what is common and what is one thing's own."""
