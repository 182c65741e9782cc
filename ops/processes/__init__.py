"""Processes of ours that end with us, and are started again when they die."""
