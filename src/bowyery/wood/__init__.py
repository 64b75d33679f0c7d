"""Materials and their moisture; staves, their flaws, and where a bow lies in one."""
