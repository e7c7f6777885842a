"""Pay: kept, confirmed payday by payday, its year so far, and ceilings. Begin with paydays.py, which the pages read."""
