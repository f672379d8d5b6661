package dev.brume.spring;

import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;
import org.springframework.context.annotation.Scope;
import org.springframework.context.annotation.ScopedProxyMode;

/**
 * Marks a bean that each attempt of a run has for itself: made when the attempt first uses it, and destroyed when the attempt ends.
 *
 * @since 0.1.0
 */
@Documented
@Target({ElementType.METHOD, ElementType.TYPE})
@Retention(RetentionPolicy.RUNTIME)
@Scope(scopeName = RunScope.NAME, proxyMode = ScopedProxyMode.TARGET_CLASS)
public @interface RunScoped {}
