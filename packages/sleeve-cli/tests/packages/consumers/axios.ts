import { createServer } from "node:http";
import axios, { AxiosError, type AxiosInstance, type AxiosRequestConfig } from "axios";

interface Berth {
  readonly number: number;
  readonly vessel: string | null;
}

const office = createServer((request, response) => {
  const isKnown = request.url?.startsWith("/berths") === true;
  response.writeHead(isKnown ? 200 : 404, { "content-type": "application/json" });
  response.end(JSON.stringify(isKnown ? [{ number: 4, vessel: "Curlew" }] : { reason: "unknown" }));
});

export function clientFor(baseURL: string, more: AxiosRequestConfig = {}): AxiosInstance {
  const client = axios.create({ baseURL, timeout: 2000, headers: { "X-Office": "Port Ellery" }, ...more });
  client.interceptors.response.use((response) => response, (error: unknown) => Promise.reject(error));
  return client;
}

async function berths(client: AxiosInstance): Promise<readonly Berth[]> {
  const { data, status } = await client.get<Berth[]>("/berths", { params: { free: false } });
  console.log(status, data.length);
  return data;
}

office.listen(0, async () => {
  const address = office.address();
  const port = typeof address === "object" && address ? address.port : 0;
  const client = clientFor(`http://127.0.0.1:${port}`);
  console.log(JSON.stringify(await berths(client)));
  try {
    await client.post("/pilots", { name: "Ines" });
  } catch (error) {
    if (axios.isAxiosError(error)) console.log(error.response?.status, error.code);
    console.log(error instanceof AxiosError);
  }
  office.close();
});
