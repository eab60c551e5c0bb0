using System.Collections.Concurrent;
using System.Net.Sockets;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Npgsql;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>
/// Listens to what the nodes warn of. A worker that meets a fault of the program tries again and again, and all that a scene
/// notices is that something comes late: such a fault fails whatever class it happened in.
/// </summary>
public static class Unforeseen
{
    private static readonly ConcurrentDictionary<string, bool> Seen = new();

    /// <summary>Has a node listened to.</summary>
    public static void Watch(IServiceCollection services)
    {
        var real = services.Last(service => service.ServiceType == typeof(ILoggerFactory));
        services.AddSingleton<ILoggerFactory>(provider => new Loggers(
            (ILoggerFactory)real.ImplementationFactory!(provider)
        ));
    }

    /// <summary>Fails when a node warned of a fault of the program.</summary>
    public static void Check() => Assert.True(Seen.IsEmpty, string.Join("\n\n", Seen.Keys.Order()));

    /// <summary>
    /// Whether it tells of a fault of the program: not of a database, a mail server or another service that is away, slow or
    /// answers what it should not, of one of two that changed the same, or of a node that is being stopped.
    /// </summary>
    public static bool IsOfTheProgram(Exception fault) =>
        StorageFaults.Explain(fault) is null
        && StorageFaults.Find<IOException>(fault) is null
        && StorageFaults.Find<SocketException>(fault) is null
        && StorageFaults.Find<HttpRequestException>(fault) is null
        && StorageFaults.Find<OperationCanceledException>(fault) is null
        && StorageFaults.Find<ObjectDisposedException>(fault) is null
        && Deepest(fault)
            is ArgumentException
                or InvalidOperationException
                or NullReferenceException
                or InvalidCastException
                or IndexOutOfRangeException
                or KeyNotFoundException
                or NotSupportedException
                or ArithmeticException
                // What is asked for is no question, or of nothing that is there.
                or PostgresException { SqlState: ['4', '2', ..] }
                or SqliteException { SqliteErrorCode: 1 };

    private static Exception Deepest(Exception fault) =>
        fault.InnerException is { } inner ? Deepest(inner) : fault;

    private sealed class Loggers(ILoggerFactory real) : ILoggerFactory
    {
        public ILogger CreateLogger(string categoryName)
        {
            var logger = real.CreateLogger(categoryName);
            return categoryName.StartsWith("ComeAboard", StringComparison.Ordinal)
                ? new Listening(logger)
                : logger;
        }

        public void AddProvider(ILoggerProvider provider) => real.AddProvider(provider);

        public void Dispose() => real.Dispose();
    }

    private sealed class Listening(ILogger real) : ILogger
    {
        public IDisposable? BeginScope<TState>(TState state)
            where TState : notnull => real.BeginScope(state);

        public bool IsEnabled(LogLevel logLevel) => logLevel >= LogLevel.Warning || real.IsEnabled(logLevel);

        public void Log<TState>(
            LogLevel logLevel,
            EventId eventId,
            TState state,
            Exception? exception,
            Func<TState, Exception?, string> formatter
        )
        {
            if (logLevel >= LogLevel.Warning && exception is not null && IsOfTheProgram(exception))
                Seen[$"{formatter(state, exception)}: {exception}"] = true;
            real.Log(logLevel, eventId, state, exception, formatter);
        }
    }
}
