"""Forms: fields that are declared, and the widgets and edits made of them."""
