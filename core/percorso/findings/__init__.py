"""What is wrong with a plan or with a state of a vehicle, each with its figure and a cure."""
