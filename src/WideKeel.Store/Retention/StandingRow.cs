using Microsoft.Data.Sqlite;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Store.Retention;

/// <summary>
/// Writes what is said of one item after the other, where it differs from what was written before. No other way leads to
/// these columns, so that nothing comes to be destroyed without sign-off, and no record is shortened, unnoted.
/// </summary>
internal sealed class StandingRow : IDisposable
{
    private readonly WriteSession session;
    private readonly LocalDate today;
    private readonly SqliteCommand select;
    private readonly SqliteCommand update;

    public StandingRow(WriteSession session, LocalDate today)
    {
        (this.session, this.today) = (session, today);
        select = session.Command(
            """
            SELECT KeepUntil, DisposableFrom, AtEnd, OwnGrade, OwnGradeUntil, Bytes FROM item
            WHERE Id = $id AND (KeepUntil IS NOT $keep OR DisposableFrom IS NOT $from OR AtEnd <> $end
                OR OwnGrade <> $grade OR OwnGradeUntil IS NOT $until OR Floor IS NOT $floor
                OR DeclaredDates IS NOT $declared OR (FlooredOn IS NOT NULL) <> $floored)
            """
        );
        update = session.Command(
            """
            UPDATE item SET KeepUntil = $keep, DisposableFrom = $from, AtEnd = $end, OwnGrade = $grade,
                OwnGradeUntil = $until, Floor = $floor, DeclaredDates = $declared,
                FlooredOn = CASE WHEN $floored THEN coalesce(FlooredOn, $today) END,
                FloorSettledOn = CASE WHEN $floored THEN FloorSettledOn END,
                DueActId = coalesce($act, DueActId)
            WHERE Id = $id
            """
        );
        foreach (var name in new[] { "$id", "$keep", "$from", "$end", "$grade", "$until", "$floor", "$floored" })
        {
            select.Parameters.Add(name, SqliteType.Integer);
            update.Parameters.Add(name, SqliteType.Integer);
        }

        select.Parameters.Add("$declared", SqliteType.Text);
        update.Parameters.Add("$declared", SqliteType.Text);
        update.Parameters.Add("$act", SqliteType.Integer);
        update.Parameters.AddWithValue("$today", today.ToDayNumber());
    }

    /// <returns>Whether anything was different.</returns>
    public bool Write(long id, in Grown grown, long? also)
    {
        Bind(select, id, grown);
        CustodyEffects effects;
        using (var reader = select.ExecuteReader())
        {
            if (!reader.Read())
            {
                return false;
            }

            effects = Custody.Of(Before(reader), grown.Standing, today);
            session.Custody.Add(effects, reader.GetInt64(5));
        }

        Bind(update, id, grown);
        var act = effects.HasFlag(CustodyEffects.MadeDue) ? session.Custody.ActOf(session, also) : null;
        update.Parameters["$act"].Value = (object?)act ?? DBNull.Value;
        update.ExecuteNonQuery();
        return true;
    }

    public void Dispose()
    {
        select.Dispose();
        update.Dispose();
    }

    /// <summary>The stored standing without its state, which depends on the day.</summary>
    private static Standing Before(SqliteDataReader reader) =>
        new(
            default,
            KeepUntil.FromCode(Number(reader, 0)),
            Number(reader, 1) is { } from ? DayNumber.ToDate(from) : null,
            (EndAction)reader.GetInt32(2),
            (Grade)reader.GetInt32(3),
            KeepUntil.FromCode(Number(reader, 4))
        );

    private static int? Number(SqliteDataReader reader, int column) =>
        reader.IsDBNull(column) ? null : reader.GetInt32(column);

    private static void Bind(SqliteCommand command, long id, in Grown grown)
    {
        var standing = grown.Standing;
        var to = command.Parameters;
        to["$id"].Value = id;
        to["$keep"].Value = (object?)standing.KeepUntil.Code ?? DBNull.Value;
        to["$from"].Value = (object?)standing.DisposableFrom?.ToDayNumber() ?? DBNull.Value;
        (to["$end"].Value, to["$grade"].Value) = ((int)standing.AtEnd, (int)standing.OwnGrade);
        to["$until"].Value = (object?)standing.OwnGradeUntil.Code ?? DBNull.Value;
        to["$floor"].Value = (object?)grown.Floor.Code ?? DBNull.Value;
        to["$declared"].Value = (object?)grown.Declared?.ToString() ?? DBNull.Value;
        to["$floored"].Value = grown.Floored ? 1 : 0;
    }
}
