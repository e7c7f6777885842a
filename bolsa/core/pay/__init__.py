"""Pay: what a payslip takes apart, and yearly ceilings on what goes to an account. Begin with payslip.py."""
