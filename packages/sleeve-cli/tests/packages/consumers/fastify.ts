import fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from "fastify";

interface Arrival {
  readonly vessel: string;
  readonly draught: number;
}

async function checkDraught(request: FastifyRequest<{ Body: Arrival }>, reply: FastifyReply): Promise<void> {
  if (request.body.draught > 9) await reply.code(422).send({ reason: "too deep" });
}

function office(): FastifyInstance {
  const app = fastify({ logger: false, bodyLimit: 1024 });
  const arrivals: Arrival[] = [];
  app.get("/arrivals", async () => arrivals);
  app.post<{ Body: Arrival }>("/arrivals", { preHandler: checkDraught }, async (request, reply) => {
    arrivals.push(request.body);
    return reply.code(201).send({ count: arrivals.length });
  });
  app.get<{ Params: { vessel: string } }>("/arrivals/:vessel", async (request) => ({
    isKnown: arrivals.some(({ vessel }) => vessel === request.params.vessel),
  }));
  return app;
}

const app = office();
const first = await app.inject({ method: "POST", url: "/arrivals", payload: { vessel: "Curlew", draught: 4 } });
console.log(first.statusCode, first.json());
const deep = await app.inject({ method: "POST", url: "/arrivals", payload: { vessel: "Gannet", draught: 11 } });
console.log(deep.statusCode, deep.body);
console.log((await app.inject("/arrivals/Curlew")).body);
await app.close();
