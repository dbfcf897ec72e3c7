import { Hono, type Context } from "hono";
import { HTTPException } from "hono/http-exception";

type Variables = { officer: string };

const app = new Hono<{ Variables: Variables }>();

app.use("*", async (c, next) => {
  c.set("officer", c.req.header("x-officer") ?? "nobody");
  await next();
});

app.get("/berths/:number", (c) => {
  const number = Number(c.req.param("number"));
  if (Number.isNaN(number)) throw new HTTPException(400, { message: "not a number" });
  return c.json({ number, by: c.get("officer") });
});

app.post("/notices", async (c) => {
  const body = await c.req.json<{ text: string }>();
  return c.text(body.text.toUpperCase(), 201);
});

const missing = (c: Context) => c.text("unknown", 404);
app.notFound(missing);
app.onError((error, c) => {
  if (error instanceof HTTPException) return c.text(error.message, error.status);
  return c.text("failed", 500);
});

const print = async (response: Response) => console.log(response.status, await response.text());
await print(await app.request("/berths/4", { headers: { "x-officer": "Ines" } }));
await print(await app.request("/berths/four"));
await print(await app.request("/notices", { method: "POST", body: JSON.stringify({ text: "fog" }) }));
await print(await app.request("/pilots"));
