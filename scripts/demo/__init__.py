"""The demo workshop: a bow loft above a boatyard, with made-up people.

What it holds is written here, a file for each room's share, and ships with the application as the
ZIP that a shop leaves as.
"""
