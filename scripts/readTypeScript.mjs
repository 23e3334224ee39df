/** Lets the processes of the tests import TypeScript as it is. */
import { register } from "tsx/esm/api";

register();
