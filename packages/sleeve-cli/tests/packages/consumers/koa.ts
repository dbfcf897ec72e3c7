import Koa, { type Context, type Next } from "koa";

async function timed(ctx: Context, next: Next): Promise<void> {
  await next();
  ctx.set("X-Harbour", "Port Ellery");
}

const app = new Koa();
app.use(timed);
app.use(async (ctx, next) => {
  if (ctx.path !== "/tide") {
    await next();
    return;
  }
  ctx.body = { station: ctx.query["station"] ?? "quay", metres: 3.2 };
});
app.use((ctx) => {
  ctx.status = 404;
  ctx.body = "unknown";
});
app.on("error", (error: Error) => console.log("failed", error.message));

const server = app.listen(0, async () => {
  const address = server.address();
  const base = `http://127.0.0.1:${typeof address === "object" && address ? address.port : 0}`;
  const tide = await fetch(`${base}/tide?station=bar`);
  console.log(tide.status, tide.headers.get("x-harbour"), await tide.text());
  console.log((await fetch(`${base}/fog`)).status);
  server.close();
});
