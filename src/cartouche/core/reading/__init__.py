"""What learners can make of the page: does it read true, and how small may print be."""
