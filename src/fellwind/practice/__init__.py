"""Practice: staves to spoil without spoiling wood."""
