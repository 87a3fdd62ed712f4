"""The tools of Shape: choosing and reshaping, drawing, brushing over tiles."""
