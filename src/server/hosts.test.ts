import { comesFromOwnPages, isOwnHost } from "./hosts";

describe("names of the server", () => {
  afterEach(() => {
    delete process.env.PLAIN_MIRROR_HOSTS;
  });

  it.each<[string | null, boolean]>([
    ["localhost", true],
    ["LOCALHOST:3000", true],
    ["127.0.0.1:65535", true],
    ["[::1]:3000", true],
    ["localhost.elsewhere.example", false],
    ["elsewhere.example:3000", false],
    ["localhost:3000:3000", false],
    ["127.0.0.2", false],
    ["", false],
    [null, false],
  ])("%s: %s", (host, own) => {
    expect(isOwnHost(host)).toBe(own);
  });

  it("are more where the environment says so", () => {
    expect(isOwnHost("studio.lan")).toBe(false);
    process.env.PLAIN_MIRROR_HOSTS = " Studio.lan , other.lan,";
    try {
      expect([isOwnHost("studio.lan:3000"), isOwnHost("other.lan"), isOwnHost("")]).toEqual([
        true,
        true,
        false,
      ]);
    } finally {
      delete process.env.PLAIN_MIRROR_HOSTS;
    }
  });

  it.each<[string, Record<string, string>, boolean]>([
    ["its own page", { host: "localhost:3000", origin: "http://localhost:3000" }, true],
    ["its own page over TLS", { host: "localhost", origin: "https://localhost" }, true],
    ["another port", { host: "localhost:3000", origin: "http://localhost:3001" }, false],
    ["another page", { host: "localhost:3000", origin: "http://elsewhere.example" }, false],
    ["no page", { host: "localhost:3000" }, false],
    ["a name pointed here", { host: "elsewhere.example", origin: "http://elsewhere.example" }, false],
    ["a page without an origin", { host: "localhost:3000", origin: "null" }, false],
  ])("a change by %s", (_who, headers, allowed) => {
    expect(comesFromOwnPages(new Headers(headers))).toBe(allowed);
  });
});
