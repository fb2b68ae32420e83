# SPDX-License-Identifier: GPL-3.0-or-later
"""What happens in flight: moves, why a part stands where it stands, the motor's release."""
