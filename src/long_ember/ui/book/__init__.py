"""The Book screen: wall, rack, jobs, assemblies, shop."""
