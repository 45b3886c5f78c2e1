"""What whoever runs an installation asks of it: is it well, what does it do, what does it lack."""
