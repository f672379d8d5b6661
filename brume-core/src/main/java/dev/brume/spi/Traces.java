package dev.brume.spi;

import dev.brume.AttemptEnd;
import dev.brume.Run;
import java.util.Map;
import java.util.Optional;

/**
 * Carries traces along with runs, as W3C Trace Context has it: from what orders or plans a run to its attempts, wherever they are carried out, to what
 * follows it, and on to what its work calls. Safe for use by many threads; what it throws is reported as a problem and changes nothing.
 *
 * @since 0.1.0
 */
public interface Traces {
    /** How long a trace context is, in characters; none of another length is kept. */
    int LENGTH = 55;

    /** Traces nothing. */
    Traces NONE = new Traces() {
        @Override
        public Optional<String> here() {
            return Optional.empty();
        }

        @Override
        public Map<String, String> passedOn() {
            return Map.of();
        }

        @Override
        public Planning planning() {
            return Planning.NONE;
        }

        @Override
        public Attempted attempt(Run run) {
            return Attempted.NONE;
        }
    };

    /** {@return the {@code traceparent} of what goes on on this thread; empty if nobody traces it} */
    Optional<String> here();

    /** {@return what is passed on to requests and programs from this thread, by header: {@code traceparent} and what belongs to it} */
    Map<String, String> passedOn();

    /** Begins to plan; called often, and mostly for nothing. */
    Planning planning();

    /** Begins an attempt on this thread, which ends on it too. */
    Attempted attempt(Run run);

    /** A planning, which is worth a span if it makes runs. Confined to one thread. */
    interface Planning {
        /** Traces nothing. */
        Planning NONE = new Planning() {
            @Override
            public Optional<String> context() {
                return Optional.empty();
            }

            @Override
            public void committed(int runs) {
                // Nobody traces it.
            }
        };

        /** {@return the {@code traceparent} that runs keep of it; asked for each run} */
        Optional<String> context();

        /** Notes that the runs are on record; not called if they are not. */
        void committed(int runs);
    }

    /** An attempt that goes on. Confined to one thread. */
    interface Attempted {
        /** Traces nothing. */
        Attempted NONE = (end, error) -> {};

        /**
         * Notes its end; called once.
         *
         * @param error what went wrong, with secrets masked
         */
        void ended(AttemptEnd end, Optional<String> error);
    }
}
