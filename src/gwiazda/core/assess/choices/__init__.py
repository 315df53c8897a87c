"""What else could be: fewest lamps, other linings, substitutes, variants, a first count."""
