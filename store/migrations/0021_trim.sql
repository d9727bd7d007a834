-- What was printed is kept for a time, and found by it.
ALTER TABLE print_job ADD KEY at (at);
