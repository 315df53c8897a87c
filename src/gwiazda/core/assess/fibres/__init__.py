"""The stage of fibres: their ways, the bundles on lamps, the light at their tips, and who goes onto which lamp."""
