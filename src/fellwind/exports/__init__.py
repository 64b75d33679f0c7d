"""Files that leave the application: PDF and bow files."""
