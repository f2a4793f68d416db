"""What stands on the table: the protocols of controller and camera, and who implements them."""
