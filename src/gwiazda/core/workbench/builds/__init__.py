"""Virtual builds: a plan built many times by hands and parts that stray, and how many of them fall within what is said."""
