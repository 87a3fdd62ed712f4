"""The parts around the Desk; none knows a stage."""
