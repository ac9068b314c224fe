"""How a line through the model is written, wherever one is asked for."""

from __future__ import annotations

GRAMMAR = (
    "Write line:X,Y,Z:X,Y,Z, nodes:ID,ID,..., arc:CX,CY,CZ:NX,NY,NZ:RX,RY,RZ:SWEEP (degrees), arc:X,Y,Z:X,Y,Z:X,Y,Z (three "
    "points), radial:CX,CY,CZ:DX,DY,DZ:FROM:TO, edge:ID, edge:ID:ID, route:ID:ID or section:X,Y,Z:NX,NY,NZ[:X,Y,Z] (near it)."
)
