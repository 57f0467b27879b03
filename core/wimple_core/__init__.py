"""The trade: measuring, unwrapping, laying artwork on a surface, layers, sheets, lay-up, price.

Inside the program lengths are millimetres, angles radians, areas mm2 and volumes ml; y points up.
"""
