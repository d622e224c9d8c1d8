// node can-listen.mjs PORT HOST — exit 0 where a server can listen there, else 1 with the reason in words.
import { createServer } from 'node:net'

const [port, host] = process.argv.slice(2)
const REASONS = {
  EADDRINUSE: `Port ${port} is taken. Choose another one: bin/start --port N`,
  EACCES: `Port ${port} needs rights that this user does not have. Choose one above 1023: bin/start --port N`,
  EADDRNOTAVAIL: `This machine has no address ${host}.`,
  ENOTFOUND: `There is no address ${host}.`,
  EAI_AGAIN: `There is no address ${host}.`,
}
const server = createServer()
server.on('error', (error) => {
  console.log(REASONS[error.code] ?? error.message)
  process.exit(1)
})
server.listen(Number(port), host, () => server.close())
