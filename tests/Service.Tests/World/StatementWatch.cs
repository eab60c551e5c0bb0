using System.Collections.Concurrent;
using System.Data.Common;
using System.Diagnostics;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace ComeAboard.Service.Tests.World;

/// <summary>Sees every statement that is run through the mapper on one database, by whichever node, from when it was made.</summary>
public abstract class StatementWatch
    : IDisposable,
        IObserver<DiagnosticListener>,
        IObserver<KeyValuePair<string, object?>>
{
    private readonly ConcurrentBag<IDisposable> _subscriptions = [];
    private readonly (string, string) _where;

    protected StatementWatch(Database database)
    {
        using var rows = database.Open();
        _where = PlaceOf(rows.Database.GetDbConnection());
        _subscriptions.Add(DiagnosticListener.AllListeners.Subscribe(this));
    }

    /// <summary>A statement is about to be run; it waits for this.</summary>
    protected virtual void Begins(DbCommand command) { }

    /// <summary>A statement was run.</summary>
    protected virtual void Ran(DbCommand command) { }

    public void OnNext(DiagnosticListener listener)
    {
        if (listener.Name == DbLoggerCategory.Name)
            _subscriptions.Add(listener.Subscribe(this));
    }

    public void OnNext(KeyValuePair<string, object?> written)
    {
        // Other scenes work in the same process, on databases of their own.
        if (
            written.Value is not CommandEventData { Command: { Connection: { } connection } command }
            || PlaceOf(connection) != _where
        )
            return;
        if (written.Value is CommandExecutedEventData)
            Ran(command);
        else if (written.Key == RelationalEventId.CommandExecuting.Name)
            Begins(command);
    }

    public void OnCompleted() { }

    public void OnError(Exception error) { }

    public void Dispose()
    {
        foreach (var subscription in _subscriptions)
            subscription.Dispose();
        GC.SuppressFinalize(this);
    }

    private static (string, string) PlaceOf(DbConnection connection) =>
        (connection.DataSource, connection.Database);
}
