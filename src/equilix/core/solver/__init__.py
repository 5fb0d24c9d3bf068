"""Ways: what to move, swap, add or hold otherwise, and the proof that it is best."""
