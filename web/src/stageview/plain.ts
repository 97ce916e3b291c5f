/** Colours of the stage view come as they are to be shown. Read before any of them is made. */
import { ColorManagement } from "three";

ColorManagement.enabled = false;
