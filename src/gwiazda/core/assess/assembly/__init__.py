"""The build: steps from the plan, how far they are, what a closing needs, evenings."""
