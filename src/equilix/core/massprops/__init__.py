"""Mass, centre of gravity and inertia of solids and of bodies joined together."""
