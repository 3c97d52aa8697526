"""How steel is drawn."""
