/** Measuring. */
import type { Measured } from "../../api/types";

export interface InspectionSlice {
  measuring: boolean;
  measured: Measured | null; // what was pointed at measures; null while nothing is pointed at
}

export const inspection: InspectionSlice = {
  measuring: false,
  measured: null,
};
