"""From judged readings to a verdict: links proved, faults weighed, the gate, the next test, the causes."""
