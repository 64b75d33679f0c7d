"""A virtual stave to practise on."""
