/** How a surface is looked at when nobody has chosen otherwise. */
import type { SheetLook } from "./sheetScene";

export const plainLook = (): SheetLook => ({
  shape: "sphere",
  environment: "studio",
  turn: 40,
  exposure: 0,
  toneMapped: true,
  shown: "lit",
  wire: false,
  displace: false,
  vertex: "none",
  misread: "",
  parted: "beside",
  wipe: 0.5,
});
