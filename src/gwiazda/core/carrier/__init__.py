"""What holds lamps: sheets, cutting pieces and solids. Numbers alone, millimetres."""
