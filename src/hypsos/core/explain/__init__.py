"""What happens in flight: moves, why a part stands where it stands, the motor's release."""
