"""Ways in space and round things packed into holes: what fibres and wires have in common. Numbers and arrays, no models."""
