"""What is believed of a rig's hidden numbers, and rigs drawn from that."""
