"""Power and motors: supply, capacitors, strip heat, machines, and what condemns a compressor. Pure."""
