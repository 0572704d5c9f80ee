import type { Candidate, CandidateIn, Machine, MachineIn } from "../api/client";

/** A machine as it stands, as it is sent: a form lays its own fields over it. */
export function machineBody({ id, set_aside, ...fields }: Machine): MachineIn {
  void [id, set_aside];
  return fields;
}

/** A candidate as it stands, as it is sent. */
export function candidateSent({ id, set_aside, recorded_at, ...fields }: Candidate): CandidateIn {
  void [id, set_aside, recorded_at];
  return fields;
}
