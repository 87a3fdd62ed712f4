"""Speed and memory beside references, all in one run; never a test."""
