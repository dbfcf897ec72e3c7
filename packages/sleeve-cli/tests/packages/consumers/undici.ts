import { createServer } from "node:http";
import { Agent, errors, fetch, type Dispatcher, MockAgent, request, setGlobalDispatcher } from "undici";

const server = createServer((incoming, response) => response.end(`${incoming.method} ${incoming.url}`));

async function get(origin: string, dispatcher: Dispatcher): Promise<string> {
  const { statusCode, body } = await request(`${origin}/tide`, { method: "PUT", dispatcher, headers: { a: "1" }, query: { s: 1 } });
  return `${statusCode} ${await body.text()}`;
}

server.listen(0, async () => {
  const address = server.address();
  const origin = `http://127.0.0.1:${typeof address === "object" && address ? address.port : 0}`;
  const agent = new Agent({ connections: 2, keepAliveTimeout: 10 });
  console.log(await get(origin, agent));
  console.log(await (await fetch(`${origin}/fog`, { dispatcher: agent })).text());
  await agent.close();
  server.close();
  const mock = new MockAgent();
  mock.disableNetConnect();
  mock.get("http://harbour.example").intercept({ path: "/berths", method: "GET" }).reply(200, { free: 3 });
  setGlobalDispatcher(mock);
  console.log(JSON.stringify(await (await fetch("http://harbour.example/berths")).json()));
  try {
    await request("http://harbour.example/none");
  } catch (error) {
    console.log(error instanceof errors.UndiciError);
  }
});
