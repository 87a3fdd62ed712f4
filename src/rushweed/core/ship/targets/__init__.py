"""What a way to ship makes: files for a game, plain files, a page."""
