"""The operator's body: segments, posture, joint moments, endurance, fatigue, lifting. Estimates for planning."""
