"""The harness: pin maps, colours, joints, what a pair reaches, and which wire leads where."""
