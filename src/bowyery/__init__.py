"""The craft's rules and its computation: values in, values out, SI units inside.

Nothing here knows of a database, a screen, a file (other than its own data) or a clock.
"""
