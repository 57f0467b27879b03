"""From cut films to a decal on the blank: the steps for this very job, and the cautions that apply."""

from .cautions import Caution
from .steps import Layup, LayupStep, plan_layup

__all__ = ["Caution", "Layup", "LayupStep", "plan_layup"]
