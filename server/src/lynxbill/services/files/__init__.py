"""Run files in and out, and copies of a job. Imports the rooms below."""
