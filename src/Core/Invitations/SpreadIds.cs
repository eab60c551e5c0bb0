using System.Buffers.Binary;

namespace ComeAboard.Core.Invitations;

/// <summary>Ids that lie evenly between two others, in the order in which both databases sort ids: by their sixteen bytes.</summary>
public static class SpreadIds
{
    /// <summary>So many ids from the first, which is one of them, towards the last, which is not; only the first where they are not in that order.</summary>
    /// <param name="first">The first id, inclusive.</param>
    /// <param name="last">The last id, exclusive.</param>
    /// <param name="count">How many; at least one.</param>
    public static IEnumerable<Guid> Between(Guid first, Guid last, int count)
    {
        var (from, to) = (Number(first), Number(last));
        var step = to > from ? (to - from) / (uint)count : 0;
        return step == 0 ? [first] : Enumerable.Range(0, count).Select(n => Id(from + step * (uint)n));
    }

    private static UInt128 Number(Guid id) =>
        BinaryPrimitives.ReadUInt128BigEndian(id.ToByteArray(bigEndian: true));

    private static Guid Id(UInt128 number)
    {
        Span<byte> bytes = stackalloc byte[16];
        BinaryPrimitives.WriteUInt128BigEndian(bytes, number);
        return new Guid(bytes, bigEndian: true);
    }
}
