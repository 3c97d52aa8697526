"""Forge: one heat fills the screen, for gloved hands two metres away."""
