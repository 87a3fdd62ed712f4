"""The tools of Cut: cells drawn and split by hand, guides, places left out."""
