"""What is drawn as lines: rails and rungs, sheets at true size."""
