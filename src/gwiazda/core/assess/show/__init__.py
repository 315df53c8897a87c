"""What channels do in time: from cues to a score, to averages, peaks, outputs."""
