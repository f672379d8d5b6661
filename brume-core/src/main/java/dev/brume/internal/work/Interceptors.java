package dev.brume.internal.work;

import dev.brume.Interceptor;
import dev.brume.Job;
import dev.brume.JobScope;
import dev.brume.Run;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;

/** What goes around attempts, the first added outermost. Safe for use by many threads. */
public final class Interceptors {
    private final List<Named> all = new CopyOnWriteArrayList<>();

    private record Named(String name, JobScope scope, Interceptor interceptor) {}

    /** Adds one around the attempts of some jobs. */
    public void add(String name, JobScope scope, Interceptor interceptor) {
        all.add(new Named(name, scope, interceptor));
    }

    /** Carries out work within those that go around it. */
    public void around(Run run, Job job, Interceptor.Attempt work) throws Exception {
        if (all.isEmpty()) {
            work.proceed();
            return;
        }
        Set<String> tags = Set.copyOf(job.tags());
        List<Named> those =
                all.stream().filter(each -> each.scope.holds(job.name(), tags)).toList();
        proceed(run, those, work);
    }

    private static void proceed(Run run, List<Named> those, Interceptor.Attempt work) throws Exception {
        if (those.isEmpty()) {
            work.proceed();
            return;
        }
        Named first = those.get(0);
        Once rest = new Once(first.name, () -> proceed(run, those.subList(1, those.size()), work));
        first.interceptor.around(run, rest);
        rest.check();
    }

    /** Confined to the thread of the attempt. */
    private static final class Once implements Interceptor.Attempt {
        private final String name;
        private final Interceptor.Attempt rest;
        private boolean proceeded;

        Once(String name, Interceptor.Attempt rest) {
            this.name = name;
            this.rest = rest;
        }

        @Override
        public void proceed() throws Exception {
            if (proceeded) {
                throw new IllegalStateException(
                        "interceptor '" + name + "' proceeds with an attempt for the second time (call proceed() once;"
                                + " further attempts are for the job's ifFailed to order)");
            }
            proceeded = true;
            rest.proceed();
        }

        void check() {
            if (!proceeded) {
                throw new IllegalStateException("interceptor '" + name
                        + "' returned without proceeding, so that the work was not done (call proceed(), throw, or"
                        + " turn the run down by beforeStart)");
            }
        }
    }
}
