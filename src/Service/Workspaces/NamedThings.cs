using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Access;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>How a change is asked for.</summary>
/// <param name="Expected">The version it was looked at; null for whatever it is.</param>
/// <param name="DryRun">Whether it is only tried.</param>
/// <param name="Tell">Whether those whose access changes get a mail.</param>
public sealed record Wanted(int? Expected = null, bool DryRun = false, bool Tell = false);

/// <summary>A thing that was made or changed.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Version">Its version now.</param>
/// <param name="Answer">What is answered.</param>
public sealed record Kept<TAnswer>(Guid Id, int Version, TAnswer Answer);

/// <summary>Making, changing and removing things with names.</summary>
public interface INamedThings<TRequest, TAnswer>
{
    Task<Outcome<Kept<TAnswer>>> AddAsync(Visitor visitor, TRequest request, Wanted wanted);
    Task<Outcome<Kept<TAnswer>>> ChangeAsync(Visitor visitor, string name, TRequest request, Wanted wanted);
    Task<Outcome<EditAnswer>> RemoveAsync(Visitor visitor, string name, Wanted wanted);
}

/// <summary>
/// Things of one sort with names that are unique among them, with a version, a cap and entries in the record: made,
/// changed and removed in the same way. What sets one sort apart is what stands in its own class.
/// </summary>
public abstract class NamedThings<TRow, TRequest, TWords, TAnswer>(NamedSort sort, Editing editing)
    : INamedThings<TRequest, TAnswer>
    where TRow : class, INamedRow, new()
    where TWords : INamed
{
    /// <summary>Makes one.</summary>
    public async Task<Outcome<Kept<TAnswer>>> AddAsync(Visitor visitor, TRequest request, Wanted wanted)
    {
        if (!ReadNamed(request, visitor.World).Try(out var words, out var refusal))
            return refusal;
        return await AnswerAsync(
            visitor,
            await editing.EditAsync<TRow>(
                visitor,
                Mode(wanted),
                async (write, editor) =>
                {
                    if (await write.Rows.Set<TRow>().CountAsync() >= sort.Most)
                        return sort.TooMany;
                    var row = new TRow
                    {
                        WorkspaceId = write.Workspace.Id,
                        Id = Guid.CreateVersion7(write.Now),
                    };
                    return await PutAsync(write, editor, row, words, isNew: true);
                }
            )
        );
    }

    /// <summary>Changes one.</summary>
    public async Task<Outcome<Kept<TAnswer>>> ChangeAsync(
        Visitor visitor,
        string name,
        TRequest request,
        Wanted wanted
    )
    {
        if (!(await FindAsync(visitor, name)).Try(out var id, out var refusal))
            return refusal;
        if (!ReadNamed(request, visitor.World).Try(out var words, out refusal))
            return refusal;
        return await AnswerAsync(
            visitor,
            await editing.EditAsync<TRow>(
                visitor,
                Mode(wanted),
                async (write, editor) =>
                    (await LookAgainAsync(write, id, wanted)).Try(out var row, out var no)
                        ? await PutAsync(write, editor, row, words, isNew: false)
                        : no
            )
        );
    }

    /// <summary>Removes one, with what hangs on it.</summary>
    public async Task<Outcome<EditAnswer>> RemoveAsync(Visitor visitor, string name, Wanted wanted)
    {
        if (!(await FindAsync(visitor, name)).Try(out var id, out var refusal))
            return refusal;
        var edited = await editing.EditAsync<int>(
            visitor,
            Mode(wanted),
            async (write, _) =>
            {
                if (!(await LookAgainAsync(write, id, wanted)).Try(out var row, out var no))
                    return no;
                if (!(await ClearAsync(write, row)).Try(out var with, out no))
                    return no;
                write.Rows.Remove(row);
                write.Record(
                    sort.Prefix + ".removed",
                    row.Id,
                    ("name", row.Name),
                    ("removed with it", with > 0 ? with : null)
                );
                return with;
            }
        );
        return edited.Then(done => new EditAnswer(done.Value, done.Difference));
    }

    /// <summary>The id of the one with a name, in any case, or an id.</summary>
    protected abstract Task<Outcome<Guid>> FindAsync(Visitor visitor, string name);

    /// <summary>Reads what one is to be, as far as that can be told without looking at the rows.</summary>
    protected abstract Outcome<TWords> Read(TRequest request, AccessWorld world);

    /// <summary>Puts into a row what it is to be, besides its name; or refuses.</summary>
    /// <returns>What the record says of it, besides the name.</returns>
    protected abstract Task<Outcome<(string Name, object? Value)[]>> FillAsync(
        WorkspaceWrite write,
        MemberRow editor,
        TRow row,
        TWords words
    );

    /// <summary>Takes away what hangs on one that is removed, or refuses because it is used.</summary>
    /// <returns>How many people or grants go with it.</returns>
    protected abstract Task<Outcome<int>> ClearAsync(WorkspaceWrite write, TRow row);

    /// <summary>What is answered when one was made or changed.</summary>
    protected abstract Task<TAnswer> AnswerAsync(Visitor visitor, Edited<TRow> done);

    /// <summary>How edits besides these are made.</summary>
    protected Editing Editing => editing;

    /// <summary>What the record says besides the name.</summary>
    protected static Outcome<(string Name, object? Value)[]> Facts(
        params (string Name, object? Value)[] facts
    ) => facts;

    private Outcome<TWords> ReadNamed(TRequest request, AccessWorld world)
    {
        if (!Read(request, world).Try(out var words, out var refusal))
            return refusal;
        return sort.ReadName(words.Name).Try(out _, out refusal) ? words : refusal;
    }

    private EditMode Mode(Wanted wanted) => new(sort.Duty, wanted.DryRun, wanted.Tell);

    private static async Task<Outcome<TRow>> LookAgainAsync(WorkspaceWrite write, Guid id, Wanted wanted)
    {
        if (await write.Rows.Set<TRow>().FirstOrDefaultAsync(r => r.Id == id) is not { } row)
            return CommonRefusals.NotFound;
        return row.IsStale(wanted.Expected) ? CommonRefusals.Stale : row;
    }

    private async Task<Outcome<TRow>> PutAsync(
        WorkspaceWrite write,
        MemberRow editor,
        TRow row,
        TWords words,
        bool isNew
    )
    {
        var key = Names.KeyOf(words.Name);
        if (await write.Rows.Set<TRow>().AnyAsync(r => r.NameKey == key && r.Id != row.Id))
            return sort.NameTaken(words.Name);
        if (!(await FillAsync(write, editor, row, words)).Try(out var facts, out var refusal))
            return refusal;
        (string, object?)[] named = isNew
            ? [("name", words.Name)]
            : [("name before", row.Name), ("name after", words.Name)];
        write.Record(sort.Prefix + (isNew ? ".added" : ".changed"), row.Id, [.. named, .. facts]);
        (row.Name, row.NameKey) = (words.Name, key);
        if (isNew)
            write.Rows.Add(row);
        else
            row.Version++;
        return row;
    }

    private async Task<Outcome<Kept<TAnswer>>> AnswerAsync(Visitor visitor, Outcome<Edited<TRow>> edited) =>
        edited.Try(out var done, out var refusal)
            ? new Kept<TAnswer>(
                done.Value.Id,
                done.Value.Version,
                await AnswerAsync(visitor with { World = done.World }, done)
            )
            : refusal;
}
