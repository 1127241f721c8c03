package proof
import ("testing";"context";"time")
func TestZZ(t *testing.T){
 all,err:=Shipped(); if err!=nil{t.Fatal(err)}
 var rs []Result
 for _,s:=range all{ t0:=time.Now(); r,err:=Simulate(context.Background(),s,3,2,nil); if err!=nil{t.Fatal(err)}
  rs=append(rs,r)
  t.Logf("%s (%.1fs)",s.Name,time.Since(t0).Seconds())
  for _,w:=range Ways{ m,sd:=r.Mean(w.Way); t.Logf("  %s total %.0f ±%.0f clean %.0f soil %.0f over %.0f (%.0f d) cleans %d; vs a %+.1f%% gained %.2f",w.Way,m.Total(),sd,m.Cleaning,m.Soil,m.Over,m.OverDays,m.Cleans,100*r.Against(w.Way,Habit),r.Gained(w.Way))}
 }
 t.Logf("%+v",Judge(rs))
}
