"""One circuit seen alone: the ways beside it, its voltage profile, what flows in it at worst."""
