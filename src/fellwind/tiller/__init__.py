"""The tiller bench."""
