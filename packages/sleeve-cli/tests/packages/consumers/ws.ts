import WebSocket, { type RawData, WebSocketServer } from "ws";

const server = new WebSocketServer({ port: 0, maxPayload: 1024 });

server.on("connection", (socket, request) => {
  socket.on("message", (data: RawData, isBinary) => {
    socket.send(`${data.toString().toUpperCase()} ${request.url} ${isBinary}`);
  });
});

function call(url: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = new WebSocket(url, { handshakeTimeout: 2000 });
    socket.on("open", () => socket.send("fog"));
    socket.on("message", (data) => {
      resolve(data.toString());
      socket.close(1000, "done");
    });
    socket.on("error", reject);
  });
}

server.on("listening", async () => {
  const address = server.address();
  const port = typeof address === "object" && address ? address.port : 0;
  console.log(await call(`ws://127.0.0.1:${port}/vhf`));
  console.log(server.clients.size <= 1, WebSocket.OPEN);
  for (const client of server.clients) if (client.readyState === WebSocket.OPEN) client.terminate();
  server.close(() => console.log("closed"));
});
