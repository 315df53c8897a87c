"""What a desktop needs to know Gwiazda: entry, icon, file type, description, manual page and completion."""
