"""What gravity, pad, hands and braces do to a rig: forces, places on a body, how it lies."""
