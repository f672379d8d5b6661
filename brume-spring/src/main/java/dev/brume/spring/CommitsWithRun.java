package dev.brume.spring;

import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Has the method of a {@link Handles handler} carried out in one of Spring's transactions that ends the run as well: what it writes and the run's end are
 * one commit, exactly once, or neither is. If it throws, all is rolled back, and the attempt has failed.
 *
 * @see RunTransactions
 * @since 0.1.0
 */
@Documented
@Target(ElementType.METHOD)
@Retention(RetentionPolicy.RUNTIME)
public @interface CommitsWithRun {}
