"""What the shaft has to turn: the fan's torque by the square of speed, bearing drag, the motor's own friction.

T = k w^2 through the rated point (fan laws); drag is a constant torque; the motor's friction allowance is one too and
must be broken away from rest; its core allowance grows with speed. At plate speed friction and core take exactly the
watts of the fit.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .circuit import Floats, Number, Windings


@dataclass(frozen=True)
class Load:
    """A fan on a shaft. `rated_w` and `rated_rad_s` are the point the fan's curve goes through at `share` 1.

    share multiplies the fan's torque at every speed: above 1 for a restricted propeller, below 1 for a restricted
    forward-curved wheel. drag is a constant torque as a share of the rated one. Arrays broadcast.
    """

    rated_w: Number
    rated_rad_s: Number
    share: Number = 1.0
    drag: Number = 0.0

    @property
    def rated_nm(self) -> Number:
        """Torque at the rated point, N*m."""
        return self.rated_w / self.rated_rad_s

    def fan_nm(self, speed_rad_s: Number) -> Floats:
        """The fan's torque against the way it turns, N*m; its sign is that of the speed."""
        w = np.asarray(speed_rad_s) / self.rated_rad_s
        return np.asarray(self.rated_nm * self.share * w * np.abs(w))

    def drag_nm(self) -> Number:
        """Constant drag of bearings or a rubbing wheel, N*m, without its sign."""
        return self.drag * self.rated_nm


def own_losses_nm(windings: Windings, load: Load, speed_rad_s: Number) -> tuple[Floats, Number]:
    """The motor's own: core allowance as a torque that grows with speed, and its friction without a sign, N*m."""
    core = np.asarray(windings.core_w / load.rated_rad_s * np.asarray(speed_rad_s) / load.rated_rad_s)
    return core, windings.friction_w / load.rated_rad_s


def blade_share(plate_rpm: float, blade_rpm: float) -> float:
    """Share of the rated torque that a blade made for another speed asks of a motor of the same power.

    (plate / blade)^3 by the fan laws: a 1090 motor on a blade for 830 is asked for 2.26 times its power.
    """
    return (plate_rpm / blade_rpm) ** 3
