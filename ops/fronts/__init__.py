"""What stands in front of the web servers."""
