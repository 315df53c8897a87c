"""What is got at of a section, open or closed: through its lid, its hatch, its bare windows, with fingers, an iron, tweezers."""
