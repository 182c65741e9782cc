"""Single parts by themselves: conductors, insulation, fuses, contacts, batteries, and the heat in a wire."""
