package dev.brume.spring;

import dev.brume.Brume;
import dev.brume.Handler;
import dev.brume.JobName;
import dev.brume.JsonPayloads;
import dev.brume.OwnTransaction;
import dev.brume.PayloadType;
import dev.brume.Run;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Type;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.springframework.aop.support.AopUtils;
import org.springframework.beans.factory.BeanFactory;
import org.springframework.core.annotation.AnnotatedElementUtils;

/**
 * A bean, or a method of one, that does the work of a job. The bean is asked for at each attempt, so that one of a narrower scope is another each time.
 *
 * @param job whose work
 * @param bean its name
 * @param method to be called; empty if the bean is a {@link Handler}
 * @param stated what stands beside it
 */
record HandlerBean(JobName job, String bean, Optional<Method> method, Handles stated) {

    /** {@return where it stands, for people} */
    String place() {
        return method.map(each -> each.getDeclaringClass().getSimpleName() + "." + each.getName())
                .orElse("the bean '" + bean + "'");
    }

    /** Registers it with an instance. */
    void register(Brume brume, BeanFactory beans, Supplier<JsonPayloads> json, OwnTransaction transactions) {
        String name = job.toString();
        if (method.isEmpty()) {
            brume.handler(name, run -> beans.getBean(bean, Handler.class).run(run));
            return;
        }
        Call call = new Call(
                beans,
                bean,
                method.get(),
                answer(json),
                AnnotatedElementUtils.hasAnnotation(method.get(), CommitsWithRun.class),
                transactions);
        Optional<Type> payload = payload();
        if (payload.isEmpty()) {
            brume.handler(name, run -> call.on(run, null));
        } else if (payload.get() == String.class) {
            brume.handler(name, run -> call.on(run, run.payload().orElse(null)));
        } else {
            brume.handler(name, read(json, payload.get()), call::on);
        }
    }

    private static PayloadType<Object> read(Supplier<JsonPayloads> json, Type type) {
        return json.get().type(simpleName(type), type);
    }

    /** A name that jobs may state, as {@code List<String>} would not be. */
    private static String simpleName(Type type) {
        return type instanceof Class<?> plain
                ? plain.getSimpleName()
                : type.getTypeName().replaceAll("[^A-Za-z0-9]+", "-").replaceAll("^-|-$", "");
    }

    /** {@return the type of the parameter that is given the payload} */
    private Optional<Type> payload() {
        Type[] types = method.orElseThrow().getGenericParameterTypes();
        List<Type> payloads = Stream.of(types).filter(type -> type != Run.class).toList();
        int runs = types.length - payloads.size();
        if (runs > 1 || payloads.size() > 1) {
            throw new SetupException(
                    place() + ", which handles '" + job + "', has parameters that nobody could give it",
                    "let it take a Run, a payload, both, or neither");
        }
        return payloads.stream().findFirst();
    }

    /** How what it returns becomes a text. */
    private Answer answer(Supplier<JsonPayloads> json) {
        Type type = method.orElseThrow().getGenericReturnType();
        if (type == void.class || type == Void.class) {
            return value -> null;
        }
        if (type == String.class) {
            return value -> (String) value;
        }
        PayloadType<Object> written = read(json, type);
        return value -> value == null ? null : written.text(value);
    }

    /** Makes a result of what a method returned. */
    @FunctionalInterface
    private interface Answer {
        @Nullable
        String of(@Nullable Object value);
    }

    /** One call for each attempt. */
    private record Call(
            BeanFactory beans,
            String bean,
            Method method,
            Answer answer,
            boolean commits,
            OwnTransaction transactions) {

        void on(Run run, @Nullable Object payload) throws Exception {
            if (commits) {
                run.commit(transactions, connection -> invoke(run, payload));
            } else {
                invoke(run, payload);
            }
        }

        private void invoke(Run run, @Nullable Object payload) throws Exception {
            Object target = beans.getBean(bean);
            Method own = AopUtils.selectInvocableMethod(method, target.getClass());
            Object[] arguments = new Object[own.getParameterCount()];
            for (int i = 0; i < arguments.length; i++) {
                arguments[i] = own.getParameterTypes()[i] == Run.class ? run : payload;
            }
            own.setAccessible(true);
            Object returned;
            try {
                returned = own.invoke(target, arguments);
            } catch (InvocationTargetException e) {
                if (e.getCause() instanceof Error error) {
                    throw error;
                }
                throw (Exception) e.getCause();
            }
            String text = answer.of(returned);
            if (text != null) {
                run.result(text);
            }
        }
    }
}
