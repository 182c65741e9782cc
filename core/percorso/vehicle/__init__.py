"""What a vehicle is made of: points, segments, devices and circuits, its states and its stages."""
