"""The stage of looms: which wires there are, the way of each, what is in every passage, and what joining them would save."""
