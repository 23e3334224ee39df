/** What stands in front of every page: who is answered, and under which policy. */
import { NextRequest } from "next/server";
import { config, proxy } from "./proxy";
import { authorization } from "./server/password";

const asked = (path: string, host: string | null = "localhost:3000") =>
  proxy(new NextRequest(`http://localhost:3000${path}`, { headers: host === null ? {} : { host } }));
/** The policy as names and what they allow. */
const policyOf = (response: Response) =>
  Object.fromEntries(
    response.headers
      .get("content-security-policy")!
      .split("; ")
      .map((part) => [part.slice(0, part.indexOf(" ")), part.slice(part.indexOf(" ") + 1).split(" ")]),
  ) as Record<string, string[]>;

describe("pages", () => {
  it("run only scripts that carry their nonce, which no two answers share", () => {
    const nonces = Array.from({ length: 20 }, () => {
      const own = policyOf(asked("/"))["script-src"]!;
      expect(own).not.toContain("'unsafe-inline'");
      expect(own).not.toContain("'unsafe-eval'");
      return own.find((source) => source.startsWith("'nonce-"))!;
    });
    expect(new Set(nonces).size).toBe(20);
    for (const nonce of nonces) expect(nonce.length).toBeGreaterThan("'nonce-'".length + 20);
  });

  it("hand the same nonce on to what makes them", () => {
    const response = asked("/studies/one");
    const handed = response.headers.get("x-middleware-request-x-nonce");
    expect(policyOf(response)["script-src"]).toContain(`'nonce-${handed}'`);
    expect(response.headers.get("x-middleware-request-content-security-policy")).toBe(
      response.headers.get("content-security-policy"),
    );
  });

  it("take nothing from elsewhere, send nothing there, and stand in no frame", () => {
    const policy = policyOf(asked("/studies/one/overview?bars=2-5"));
    for (const name of ["default-src", "connect-src", "font-src", "form-action"])
      expect(policy[name]).toEqual(["'self'"]);
    expect(policy["frame-ancestors"]).toEqual(["'none'"]);
    expect(policy["object-src"]).toEqual(["'none'"]);
    expect(policy["base-uri"]).toEqual(["'none'"]);
    expect(
      Object.values(policy)
        .flat()
        .filter((source) => /https?:|\*/.test(source)),
    ).toEqual([]);
  });

  it("are not guessed at, and tell others no addresses", () => {
    const { headers } = asked("/");
    expect(headers.get("x-content-type-options")).toBe("nosniff");
    expect(headers.get("referrer-policy")).toBe("same-origin");
  });

  it.each(["elsewhere.example", "127.0.0.1.elsewhere.example:3000", ""])(
    "are not given under the name %s",
    async (host) => {
      const response = asked("/", host);
      expect(response.status).toBe(403);
      expect(await response.text()).toMatch(/PLAIN_MIRROR_HOSTS/);
    },
  );

  describe("with a password", () => {
    beforeEach(() => {
      process.env.PLAIN_MIRROR_PASSWORD = "grüne Tür: 7";
    });
    afterEach(() => {
      delete process.env.PLAIN_MIRROR_PASSWORD;
    });
    const shown = (authorization: string) =>
      proxy(new NextRequest("http://localhost:3000/", { headers: { host: "localhost:3000", authorization } }))
        .status;
    const basic = (text: string) => `Basic ${Buffer.from(text, "utf8").toString("base64")}`;

    it("are given to whoever shows it, under any name", () => {
      expect(["anyone:grüne Tür: 7", ":grüne Tür: 7"].map((text) => shown(basic(text)))).toEqual([200, 200]);
      expect(shown(authorization("grüne Tür: 7"))).toBe(200);
    });

    it("are asked for in the browser's own way otherwise", async () => {
      const response = asked("/studies/one");
      expect(response.status).toBe(401);
      expect(response.headers.get("www-authenticate")).toMatch(/^Basic realm="Plain Mirror"/);
      expect(await response.text()).not.toContain("grüne");
    });

    it.each([
      basic("anyone:"),
      basic("anyone:grüne Tür"),
      basic("grüne Tür: 7:x"),
      "Basic",
      "Bearer x",
      "Basic ***",
    ])("are not given for %s", (header) => {
      expect(shown(header)).toBe(401);
    });
  });

  it("are not there at addresses that cannot be read", async () => {
    const response = asked("/studies/%E0%A4%A");
    expect(response.status).toBe(404);
    expect(await response.json()).toEqual({
      refusal: { code: "not-found", sentence: "There is nothing at this address." },
    });
  });
});

it("stands before pages, and before routes only where an address has strange bytes", () => {
  const passes = (path: string) => config.matcher.some((matcher) => new RegExp(`^${matcher}$`).test(path));
  expect(["/", "/studies/one/tone", "/nothing"].map(passes)).toEqual([true, true, true]);
  expect(
    ["/api/studies", "/_next/static/chunk.js", "/listening/mixer.js", "/favicon.ico"].map(passes),
  ).toEqual([false, false, false, false]);
  expect(passes("/api/studies/%E0%A4%A")).toBe(true);
});
