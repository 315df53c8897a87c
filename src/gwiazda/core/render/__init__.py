"""What is drawn as light: night and round picture, glare, tone, raster, solids. Arrays in, pictures out; no models."""
