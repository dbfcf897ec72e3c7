const VERBS = `
  abort accept acquire activate add admit announce append apply assign attach begin bind block book
  broadcast call cancel check change clear close commit configure confirm connect copy create deactivate
  decline delete deliver destroy detach disable disconnect dispatch dispose drop emit empty enable end
  enqueue erase execute fill finish fire flush forget free grant halt handle hide init initialize
  insert install invoke kill leave load lock log make mark merge migrate move mount notify off on open
  order pause perform ping place play post prepare print process publish push put raise recall record
  refresh register reject release reload remove rename replace report reserve reset resize restart
  resume retry revoke ring rollback run save schedule send set setup show shutdown sign signal skip
  start stop store submit subscribe swap switch sync toggle test touch trigger truncate unlock unregister
  unsubscribe update upload use validate verify warn watch withdraw write
`;

const COMMANDS: ReadonlySet<string> = new Set(VERBS.trim().split(/\s+/));

/** Whether the name of a member begins with the verb of a command, whose result may be of no interest to the client. */
export function isCommand(member: string): boolean {
  const [verb = ""] = /^[a-z]+/.exec(member) ?? [];
  return COMMANDS.has(verb);
}
