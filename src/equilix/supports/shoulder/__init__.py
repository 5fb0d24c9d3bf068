"""A pad on the shoulder, hands at the grips."""
