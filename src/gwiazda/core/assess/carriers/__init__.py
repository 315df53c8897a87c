"""Carriers of a plan: what stands in its sections, what is proposed, what goes through."""
