"""One circuit seen alone: the ways beside it, its voltage profile, what flows in it at worst."""

__all__ = ["comparison", "design_case", "glance", "parallel_paths", "verdict", "voltage_profile", "worst_currents"]
