"""The rules of the job: grids, tempo maps, transitions, commands and the plan. No audio, no storage, no web."""
