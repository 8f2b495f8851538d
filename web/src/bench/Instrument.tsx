import Button from "@mui/material/Button";
import { useMutation, useQuery } from "@tanstack/react-query";
import { askInstrument, type SimAnswer, type SimQuestion, simulatedQuery } from "../api/bench";
import { ProblemNote } from "../fields/ProblemNote";

interface Props {
  fleetNo: string;
  question: SimQuestion;
  label: string;
  onAnswer: (answer: SimAnswer) => void;
}

/** Holds the simulated instrument to the simulated car, where both are there. */
export function Instrument({ fleetNo, question, label, onAnswer }: Props) {
  const there = useQuery(simulatedQuery(fleetNo));
  const ask = useMutation({ mutationFn: () => askInstrument(fleetNo, question), onSuccess: onAnswer });
  if (!there.data?.here) return null;
  return (
    <>
      <Button
        variant="outlined"
        color="inherit"
        disabled={ask.isPending}
        onClick={() => ask.mutate()}
        sx={{ height: 44 }}
      >
        {label}
      </Button>
      <ProblemNote error={ask.error} />
    </>
  );
}
