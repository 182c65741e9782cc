"""What is wrong with a plan or with a state of a vehicle, each with its figure and a cure."""

__all__ = ["finding", "operating_state", "overcurrent", "plan", "rules", "wires"]
