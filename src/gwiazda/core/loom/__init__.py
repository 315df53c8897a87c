"""Looms: routes through passages, how full they get, sleeves, heat along a lead. Numbers and graphs, no models."""
