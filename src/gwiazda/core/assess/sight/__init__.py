"""What is seen from where, and how well."""
