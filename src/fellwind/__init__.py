"""The web application: rooms of the workshop over the core in bowyery."""
