"""The core's command line."""
