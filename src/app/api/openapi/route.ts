import { openApi } from "@/server/api/openApi";
import { success } from "@/core/outcome";
import { reading, respond } from "@/server/http";

/** The HTTP interface described, for programs that speak it. */
export const GET = reading(() => Promise.resolve(respond(success(openApi()))));
