"""What a game loads: atlas pages, a manifest, levels."""
