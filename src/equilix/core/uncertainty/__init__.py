"""How far each figure of the verdict can be trusted: first order and sampling."""
