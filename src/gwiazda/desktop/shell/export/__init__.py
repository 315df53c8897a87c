"""What goes out: the table of it, its sheet, and what writes it."""
