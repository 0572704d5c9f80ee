import type { Machine, MachineIn } from "../../api/client";

/** A machine as it stands, as it is sent: a form lays its own fields over it. */
export function machineBody({ id, version, ...fields }: Machine): MachineIn {
  void id;
  return { ...fields, version };
}
