"""Parts, what they usually weigh, the records of their figures and how doubtful those are."""
