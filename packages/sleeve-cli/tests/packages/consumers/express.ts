import express, { type NextFunction, type Request, type Response, Router } from "express";

interface Berth {
  readonly number: number;
  readonly length: number;
}

const berths: Berth[] = [{ number: 1, length: 40 }, { number: 2, length: 90 }];

function requireOfficer(request: Request, response: Response, next: NextFunction): void {
  if (request.header("x-officer") === undefined) {
    response.status(401).json({ reason: "no officer" });
    return;
  }
  next();
}

const router = Router();
router.get("/", (_request, response) => {
  response.json(berths);
});
router.get("/:number", (request, response) => {
  const found = berths.find(({ number }) => number === Number(request.params.number));
  if (found) response.json(found);
  else response.sendStatus(404);
});
router.post("/", requireOfficer, (request, response) => {
  berths.push(request.body);
  response.status(201).send(`${berths.length} berths`);
});

const app = express();
app.use(express.json({ limit: "1kb" }));
app.use("/berths", router);

const server = app.listen(0, async () => {
  const address = server.address();
  const base = `http://127.0.0.1:${typeof address === "object" && address ? address.port : 0}/berths`;
  console.log(await (await fetch(base)).text());
  console.log((await fetch(`${base}/9`)).status, await (await fetch(`${base}/2`)).text());
  const body = JSON.stringify({ number: 3, length: 25 });
  const headers = { "content-type": "application/json" };
  console.log((await fetch(base, { method: "POST", body, headers })).status);
  console.log(await (await fetch(base, { method: "POST", body, headers: { ...headers, "x-officer": "Ines" } })).text());
  server.close();
});
