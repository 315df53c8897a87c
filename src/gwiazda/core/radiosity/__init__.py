"""Light in a closed box: form factors, shadows, direct light, what bounces."""
