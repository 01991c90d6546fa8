"""Controls: why it does not run. Forms and panels of the chain, fuses, codes, sensors, defrost, wires."""
