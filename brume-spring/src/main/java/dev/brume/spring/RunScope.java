package dev.brume.spring;

import dev.brume.Interceptor;
import dev.brume.Run;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.ObjectFactory;
import org.springframework.beans.factory.config.Scope;

/** The beans of the attempt that goes on on a thread. Safe for use by many threads. */
final class RunScope implements Scope, Interceptor {
    static final String NAME = "brume-run";

    private static final Logger LOG = LoggerFactory.getLogger(RunScope.class);

    private final ThreadLocal<@Nullable Beans> current = new ThreadLocal<>();

    /** The beans of one attempt; confined to its thread. */
    private static final class Beans {
        private final Run run;
        private final Map<String, Object> made = new LinkedHashMap<>();
        private final Map<String, Runnable> destructions = new LinkedHashMap<>();

        Beans(Run run) {
            this.run = run;
        }

        void destroy() {
            List<Map.Entry<String, Runnable>> last = new ArrayList<>(destructions.entrySet());
            Collections.reverse(last);
            last.forEach(entry -> {
                try {
                    entry.getValue().run();
                } catch (RuntimeException e) {
                    LOG.warn("the bean '{}' of run {} could not be destroyed", entry.getKey(), run.id(), e);
                }
            });
        }
    }

    @Override
    public void around(Run run, Attempt attempt) throws Exception {
        Beans own = new Beans(run);
        current.set(own);
        try {
            attempt.proceed();
        } finally {
            try {
                own.destroy();
            } finally {
                current.remove();
            }
        }
    }

    private Beans own(String name) {
        Beans own = current.get();
        if (own == null) {
            throw new IllegalStateException("the bean '" + name
                    + "' is one of each run (@RunScoped), and no run goes on on this thread; use it from a handler");
        }
        return own;
    }

    @Override
    public Object get(String name, ObjectFactory<?> factory) {
        Beans own = own(name);
        Object known = own.made.get(name);
        if (known == null) {
            known = factory.getObject();
            own.made.put(name, known);
        }
        return known;
    }

    @Override
    public @Nullable Object remove(String name) {
        Beans own = own(name);
        own.destructions.remove(name);
        return own.made.remove(name);
    }

    @Override
    public void registerDestructionCallback(String name, Runnable callback) {
        own(name).destructions.put(name, callback);
    }

    @Override
    public @Nullable Object resolveContextualObject(String key) {
        Beans own = current.get();
        return own != null && key.equals("run") ? own.run : null;
    }

    @Override
    public @Nullable String getConversationId() {
        Beans own = current.get();
        return own == null ? null : Long.toString(own.run.id());
    }
}
