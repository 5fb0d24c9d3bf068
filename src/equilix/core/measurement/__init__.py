"""Weighing: formulas of the set-ups, steadiness, reconciling, and what to weigh next."""
