package dev.brume.spring;

import dev.brume.Handler;
import dev.brume.JobName;
import java.lang.reflect.Method;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.aop.framework.autoproxy.AutoProxyUtils;
import org.springframework.aop.scope.ScopedObject;
import org.springframework.aop.scope.ScopedProxyUtils;
import org.springframework.beans.factory.config.ConfigurableListableBeanFactory;
import org.springframework.context.annotation.Bean;
import org.springframework.core.MethodIntrospector;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.core.annotation.AnnotationUtils;

/** Finds the beans that handle jobs. */
final class HandlerBeans {
    private static final Logger LOG = LoggerFactory.getLogger(HandlerBeans.class);

    private final ConfigurableListableBeanFactory beans;
    private final Map<JobName, HandlerBean> found = new LinkedHashMap<>();

    HandlerBeans(ConfigurableListableBeanFactory beans) {
        this.beans = beans;
    }

    /** {@return them by job} */
    Map<JobName, HandlerBean> find() {
        for (String name : beans.getBeanNamesForType(Object.class)) {
            if (!ScopedProxyUtils.isScopedTarget(name)) {
                look(name);
            }
        }
        return found;
    }

    /** A bean may name classes that are not there, for want of a library that it does without; it handles no job then. */
    private void look(String name) {
        Class<?> type;
        Map<Method, Handles> methods;
        try {
            type = type(name);
            if (type == null || !AnnotationUtils.isCandidateClass(type, Handles.class)) {
                return;
            }
            methods = methods(type);
        } catch (RuntimeException | LinkageError e) {
            LOG.info("the bean '{}' cannot be looked through for handlers: {}", name, e.toString());
            return;
        }
        add(name, type, methods);
    }

    private static Map<Method, Handles> methods(Class<?> type) {
        return MethodIntrospector.selectMethods(type, (MethodIntrospector.MetadataLookup<Handles>)
                method -> AnnotatedElementUtils.hasAnnotation(method, Bean.class)
                        ? null
                        : AnnotatedElementUtils.findMergedAnnotation(method, Handles.class));
    }

    /** What stands behind proxies. */
    private @Nullable Class<?> type(String name) {
        Class<?> type = AutoProxyUtils.determineTargetClass(beans, name);
        return type != null && ScopedObject.class.isAssignableFrom(type)
                ? AutoProxyUtils.determineTargetClass(beans, ScopedProxyUtils.getTargetBeanName(name))
                : type;
    }

    private void add(String name, Class<?> type, Map<Method, Handles> methods) {
        Handles whole = beans.findAnnotationOnBean(name, Handles.class);
        if (whole != null) {
            if (!Handler.class.isAssignableFrom(type)) {
                throw new SetupException(
                        "the bean '" + name + "' is marked to handle '" + whole.value() + "', and is no "
                                + Handler.class.getName(),
                        "implement that, or mark the method that does the work");
            }
            add(new HandlerBean(job(whole, name), name, Optional.empty(), whole));
        }
        methods.forEach((method, stated) -> add(new HandlerBean(job(stated, name), name, Optional.of(method), stated)));
    }

    private JobName job(Handles stated, String bean) {
        String name = String.valueOf(beans.resolveEmbeddedValue(stated.value()));
        try {
            return JobName.parse(name);
        } catch (IllegalArgumentException e) {
            throw new SetupException(
                    "the bean '" + bean + "' handles what is no job: " + e.getMessage(), "correct @Handles");
        }
    }

    private void add(HandlerBean bean) {
        HandlerBean other = found.putIfAbsent(bean.job(), bean);
        if (other != null) {
            throw new SetupException(
                    "'" + bean.job() + "' is handled twice: by " + other.place() + " and by " + bean.place(),
                    "leave one of them, or give one another job");
        }
    }
}
