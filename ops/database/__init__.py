"""Where the data are: the server they are in, how they are brought up to date and backed up."""
