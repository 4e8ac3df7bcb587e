"""Where a controller shows a port of it by Modbus: the map that is kept with its part."""

from typing import Annotated, Literal

from msgspec import Meta

from vervain.model.base import Name, Record

# The four tables of the Modbus application protocol V1.1b3, 4.3.
ModbusTable = Literal["coil", "discrete input", "holding register", "input register"]
LAST_ADDRESS = 65535


class LiveEntry(Record, frozen=True, kw_only=True):
    """One port: its table and address (from 0); of a register one `bit`, else a signed number of
    `words` registers, the high one first unless `low_first`, times `scale`.
    """

    port: Name
    table: ModbusTable
    address: Annotated[int, Meta(ge=0, le=LAST_ADDRESS)]
    bit: Annotated[int, Meta(ge=0, le=15)] | None = None
    words: Annotated[int, Meta(ge=1, le=2)] = 1
    low_first: bool = False
    scale: Annotated[float, Meta(ge=-1e9, le=1e9)] = 1.0

    @property
    def is_bits(self) -> bool:
        """Whether its table is one of single bits."""
        return self.table in ("coil", "discrete input")

    @property
    def is_lamp(self) -> bool:
        """Whether it is on or off, not a number."""
        return self.is_bits or self.bit is not None
